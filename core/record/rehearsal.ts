/**
 * Judges a rehearsal from what was really recorded: is the voice heard, is it clean, does the picture move? Every
 * check gives a verdict, and where it is not good a remedy.
 */
import { quantileSorted } from 'd3-array'
import { decibels } from '../sound/level'

/** What was found in a recorded sound. Levels in dBFS. */
export interface HeardSound {
  label: string
  /** Highest sample (0…1) of each short block, as analysed. */
  tops: Float32Array
  /** 10th percentile of the short blocks' root mean square. */
  noiseFloor: number
  /** Seconds that are clipped. */
  clipped: number
}

/** What was found in a recorded picture. */
export interface SeenPicture {
  label: string
  kind: 'screen' | 'camera'
  /** Frames that are in the file, and that should be by length and frame rate. */
  frames: number
  due: number
  /** Largest mean difference between two looks at the picture, and its brightest look, 0…255. */
  movement: number
  brightest: number
}

export interface Verdict {
  about: string
  grade: 'good' | 'fair' | 'bad'
  says: string
  remedy: string
}

/** Speech peaks should lie between these, dBFS; outside the wider pair it cannot be used. */
const GOOD = { low: -24, high: -3 } as const
const WIDE = { low: -40, high: -0.3 } as const
/** Noise that lies this far below speech is not noticed, or is not disturbing, dB. */
const CLEAN = 30
const USABLE = 18
const SILENT = -60

const db = (x: number) => `${Math.round(x)} dB`.replace('-', '−')

function judgeSound({ label, tops, noiseFloor, clipped }: HeardSound): Verdict[] {
  const sorted = Array.from(tops).sort((a, b) => a - b)
  const speech = decibels(quantileSorted(sorted, 0.95) ?? 0)
  if (sorted.length === 0 || speech < SILENT)
    return [
      {
        about: label,
        grade: 'bad',
        says: 'Nothing is to be heard.',
        remedy: 'Check that this microphone is on, is not muted, and is the right one.',
      },
    ]
  const out: Verdict[] = []
  if (clipped > 0)
    out.push({
      about: label,
      grade: 'bad',
      says: `The sound clips (${clipped < 0.1 ? 'in places' : `${clipped.toFixed(1)} s of it`}). That cannot be repaired.`,
      remedy: 'Turn the gain down until the loudest words stay in the good zone.',
    })
  else if (speech > GOOD.high)
    out.push({
      about: label,
      grade: 'fair',
      says: `Speech peaks at ${db(speech)}, which is hot.`,
      remedy: 'Turn the gain down a little.',
    })
  else if (speech < WIDE.low)
    out.push({
      about: label,
      grade: 'bad',
      says: `Speech peaks at ${db(speech)}, which is far too quiet.`,
      remedy: 'Move nearer to the microphone, or turn the gain up.',
    })
  else if (speech < GOOD.low)
    out.push({
      about: label,
      grade: 'fair',
      says: `Speech peaks at ${db(speech)}, which is quiet.`,
      remedy: 'Move nearer to the microphone, or turn the gain up.',
    })
  else out.push({ about: label, grade: 'good', says: `Speech peaks at ${db(speech)}.`, remedy: '' })
  // Peaks lie some 12 dB above the mean of speech, so that the floor is held against what the ear compares.
  const clear = speech - 12 - noiseFloor
  if (clear >= CLEAN)
    out.push({ about: label, grade: 'good', says: `The room is quiet (${db(noiseFloor)}).`, remedy: '' })
  else
    out.push({
      about: label,
      grade: clear >= USABLE ? 'fair' : 'bad',
      says: `Steady noise lies only ${Math.max(0, Math.round(clear))} dB below the speech.`,
      remedy:
        'Move nearer to the microphone, close the window, or switch off fans; the rest can be taken out when tidying.',
    })
  return out
}

/** Shares of frames that may be missing. */
const FEW = 0.02
const MANY = 0.1
/** Below this a picture is black, 0…255; noise of a camera alone moves more than the second. */
const BLACK = 12
const FROZEN = 0.02

function judgePicture({ label, kind, frames, due, movement, brightest }: SeenPicture): Verdict[] {
  if (frames === 0)
    return [
      {
        about: label,
        grade: 'bad',
        says: 'No picture was recorded.',
        remedy: 'Switch it off and on again, or choose another device.',
      },
    ]
  if (brightest < BLACK)
    return [
      {
        about: label,
        grade: 'bad',
        says: 'The picture is black.',
        remedy:
          kind === 'camera'
            ? 'Take the cover off the lens, or switch the light on.'
            : 'Share it again; some programs hide their window from recording.',
      },
    ]
  const out: Verdict[] = []
  const lost = Math.max(0, 1 - frames / Math.max(1, due))
  if (lost > FEW)
    out.push({
      about: label,
      grade: lost > MANY ? 'bad' : 'fair',
      says: `${Math.round(100 * lost)} % of the frames are missing.`,
      remedy: 'Close other programs, or choose a smaller size or fewer frames a second.',
    })
  // A screen may well stand still; a camera never does.
  if (kind === 'camera' && movement < FROZEN)
    out.push({
      about: label,
      grade: 'bad',
      says: 'The picture is frozen.',
      remedy: 'Plug the camera in again, and close other programs that use it.',
    })
  if (out.length === 0)
    out.push({
      about: label,
      grade: 'good',
      says:
        kind === 'screen' && movement < FROZEN
          ? 'The picture is there; nothing moved in it.'
          : 'The picture is there and moves.',
      remedy: '',
    })
  return out
}

/** @returns verdicts in the order of the inputs; sound first, as a lecture can do without a picture */
export function judge(sounds: readonly HeardSound[], pictures: readonly SeenPicture[]): Verdict[] {
  const none: Verdict[] =
    sounds.length === 0
      ? [
          {
            about: 'Sound',
            grade: 'bad',
            says: 'No sound was recorded.',
            remedy: 'Switch a microphone on, unless the lecture is meant to be silent.',
          },
        ]
      : []
  return [...none, ...sounds.flatMap(judgeSound), ...pictures.flatMap(judgePicture)]
}
