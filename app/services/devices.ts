/** Opens the inputs of a recording as live streams, and says in words what a device does not do. */
import { kindOf } from '#core/record/inputs'
import type { KnownDevice } from '#core/record/inputs'
import type { InputPlan } from '#core/schema/setup'
import { errorMessage } from '#core/text/error-message'
import type { HallControl } from '#standins/hall/hall'

/** An input that could not be opened. The message says what happened and what to do. */
export class InputUnavailable extends Error {
  override name = 'InputUnavailable'
}

/** Turns a device error into what happened and what to do. */
function sayDeviceError(error: unknown, plan: InputPlan): string {
  const what = plan.label.toLowerCase()
  const name = error instanceof DOMException ? error.name : ''
  if (name === 'NotAllowedError')
    return plan.source === 'display' || plan.source === 'computer'
      ? 'Nothing was shared. Switch it on again and choose what to record.'
      : `You or the browser refused the ${what}. Allow it in the address bar and try again.`
  if (name === 'NotFoundError') return `No ${what} was found. Plug it in and try again.`
  if (name === 'OverconstrainedError') return `The device chosen for the ${what} is not there any more. Choose another.`
  if (name === 'NotReadableError' || name === 'AbortError')
    return `Another program is using the ${what}, or it does not answer. Close the other program, plug it in again, and try once more.`
  return `The ${what} could not be opened: ${errorMessage(error)}`
}

/** Cameras and microphones that are there. Names are empty until one has been allowed. */
export async function listDevices(): Promise<KnownDevice[]> {
  const all = await navigator.mediaDevices.enumerateDevices()
  return all.flatMap(({ kind, deviceId, label }) =>
    kind === 'audiooutput' || deviceId === '' ? [] : [{ kind, deviceId, label }],
  )
}

async function streamOf(
  { source, picture, deviceId }: InputPlan,
  hall: () => Promise<HallControl>,
): Promise<MediaStream> {
  const device = deviceId ? { deviceId: { exact: deviceId } } : {}
  const size = picture && {
    width: { ideal: picture.width },
    height: { ideal: picture.height },
    frameRate: { ideal: picture.frameRate },
  }
  switch (source) {
    case 'hall-screen':
      return (await hall()).screen
    case 'hall-camera':
      return (await hall()).camera
    case 'hall-lectern':
      return (await hall()).microphones.lectern
    case 'hall-ceiling':
      return (await hall()).microphones.ceiling
    case 'camera':
      return navigator.mediaDevices.getUserMedia({ video: { ...device, ...size } })
    // The browser's own processing is for calls: it swallows the ends of words.
    case 'microphone':
      return navigator.mediaDevices.getUserMedia({
        audio: { ...device, echoCancellation: false, noiseSuppression: false, autoGainControl: false },
      })
    case 'display':
      return navigator.mediaDevices.getDisplayMedia({ video: size ?? true, audio: false })
    case 'computer': {
      // A browser gives a computer's sound only together with a picture of it, which is let go at once.
      const stream = await navigator.mediaDevices.getDisplayMedia({
        video: true,
        audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false },
      })
      stream.getVideoTracks().forEach((t) => t.stop())
      if (stream.getAudioTracks().length === 0)
        throw new InputUnavailable(
          'The browser gave no sound. Switch it on again, choose a tab or the whole screen, and tick “share audio”.',
        )
      return new MediaStream(stream.getAudioTracks())
    }
  }
}

/**
 * Opens an input.
 * @returns its stream, and the plan with the device that was really opened
 * @throws {InputUnavailable}
 */
export async function openInput(
  plan: InputPlan,
  hall: () => Promise<HallControl>,
): Promise<{ stream: MediaStream; plan: InputPlan }> {
  try {
    const stream = await streamOf(plan, hall)
    const track = stream.getTracks()[0]
    if (!track) throw new InputUnavailable(`The ${plan.label.toLowerCase()} gives nothing. Choose another device.`)
    const { deviceId = '', width, height } = track.getSettings()
    const hasDevice = plan.source === 'camera' || plan.source === 'microphone'
    return {
      stream,
      plan: {
        ...plan,
        ...(hasDevice && { deviceId, deviceName: track.label.slice(0, 300) }),
        picture:
          plan.picture && kindOf(plan.source) !== 'sound' && width && height
            ? { ...plan.picture, width, height }
            : plan.picture,
      },
    }
  } catch (error) {
    if (error instanceof InputUnavailable) throw error
    throw new InputUnavailable(sayDeviceError(error, plan))
  }
}

/** What is said when a running input ends by itself. */
export function sayEnded(plan: InputPlan): string {
  if (plan.source === 'display' || plan.source === 'computer')
    return `${plan.label}: sharing was ended from the browser’s own bar. What it gave so far is kept. To record it again, stop, share it anew and record a further take.`
  return `${plan.label} went away: it was unplugged, or another program took it. What it gave so far is kept. To record it again, stop, plug it in and record a further take.`
}
