// The engine at the command line: probe, analyse and render files with the very code the application runs, in a
// headless Chromium. Results go to standard output, progress to standard error.
import { mkdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { basename, dirname, extname, join, relative, resolve } from 'node:path'
import { Command, InvalidArgumentError, Option } from 'commander'
import { openEngine } from './engine.mjs'

/** Exit codes: everything done; something went wrong with a file; the command itself made no sense. */
const OK = 0
const FAILED = 1
const MISUSED = 2
const INTERRUPTED = 130

const seconds = (text) => {
  const value = Number(text)
  if (!(value > 0)) throw new InvalidArgumentError('Give a number of seconds above 0.')
  return value
}
const decibels = (text) => {
  const value = Number(text)
  if (!(value < 0)) throw new InvalidArgumentError('Give a level below 0 dBFS, such as -45.')
  return value
}

/** Shows progress on one line while a person is watching, and nothing otherwise. */
function meter(name, options) {
  const shows = process.stderr.isTTY && !options.quiet
  const began = Date.now()
  return {
    tell(share) {
      if (!shows) return
      const left = share > 0.02 ? ` · ${Math.round(((Date.now() - began) / 1000 / share) * (1 - share))} s left` : ''
      process.stderr.write(`\r\x1b[K${name} ${Math.floor(share * 100)} %${left}`)
    },
    end() {
      if (shows) process.stderr.write('\r\x1b[K')
    },
  }
}

/** Runs one piece of work per file with one engine; a file that fails does not stop the others. */
async function forEach(files, options, work) {
  let engine
  let failed = 0
  const results = []
  const stop = async () => {
    await engine?.abandon()
    await engine?.close()
    console.error('Stopped. Nothing half made was left behind.')
    process.exit(INTERRUPTED)
  }
  process.once('SIGINT', stop)
  process.once('SIGTERM', stop)
  try {
    engine = await openEngine({ quiet: options.quiet })
    for (const file of files) {
      const line = meter(basename(file), options)
      try {
        const value = await work(engine, file, (share) => line.tell(share))
        line.end()
        results.push({ file, ...value })
      } catch (error) {
        line.end()
        failed++
        results.push({ file, error: error.message })
        if (!options.json) console.error(`${file}: ${error.message}`)
      }
    }
  } finally {
    process.off('SIGINT', stop)
    process.off('SIGTERM', stop)
    await engine?.close()
  }
  if (options.json) console.log(JSON.stringify(files.length === 1 ? results[0] : results, null, 2))
  process.exitCode = failed > 0 ? FAILED : OK
}

const misuse = (sentence) => program.error(sentence, { exitCode: MISUSED })

function readJson(path, what) {
  let text
  try {
    text = readFileSync(path, 'utf8')
  } catch {
    return misuse(`The ${what} “${path}” cannot be read.`)
  }
  try {
    return JSON.parse(text)
  } catch (error) {
    return misuse(`The ${what} “${path}” is not JSON: ${error.message}.`)
  }
}

/** Files that an edit puts in are found beside it, or beside the finish that it was made by. */
function assetsOf(edit, path) {
  // Up to version 2 an edit was a list of commands.
  const lists = [edit?.inserts, edit?.stretches, edit?.commands].filter(Array.isArray)
  const whole = [edit?.watermark?.file, edit?.background?.how?.file]
  const named = [...lists.flat().map((item) => item?.what?.file), ...whole]
  const names = named.filter((file) => typeof file === 'string')
  return Object.fromEntries([...new Set(names)].map((name) => [name, resolve(dirname(path), name)]))
}

/** Whether a path is to be a folder into which each file's result goes under its own name. */
const isFolder = (out, files, format) =>
  files.length > 1 || out.endsWith('/') || (format !== 'hls' && statSync(out, { throwIfNoEntry: false })?.isDirectory())

/** Where a file's result goes. */
function targetOf(file, out, files, format) {
  const name = basename(file, extname(file)) + (format === 'hls' ? '' : `.${format}`)
  if (!isFolder(out, files, format)) return out
  mkdirSync(out, { recursive: true })
  return join(out, name)
}

const sayProbe = (file, found) => {
  const picture =
    found.picture &&
    `${found.picture.codec} ${found.picture.width}×${found.picture.height}, ${found.picture.frameRate} frames/s${found.picture.constant ? '' : ' (not constant)'}, a key frame every ${found.picture.keyFrameSpacing ?? '?'} s`
  const sound =
    found.sound &&
    `${found.sound.codec} ${found.sound.sampleRate} Hz, ${found.sound.channels} channel${found.sound.channels > 1 ? 's' : ''}`
  console.log(
    [
      `${file}`,
      `  ${found.container}, ${found.duration.toFixed(3)} s`,
      picture && `  picture: ${picture}`,
      sound && `  sound: ${sound}`,
      ...found.remarks.map((r) => `  ${r}`),
    ]
      .filter(Boolean)
      .join('\n'),
  )
}

const program = new Command('thaw')
  .description('Looks at, analyses and renders lectures: the application’s own engine at the command line.')
  .showHelpAfterError('(thaw --help says more)')
  .exitOverride((error) => process.exit(error.exitCode === 0 ? OK : MISUSED))

program
  .command('probe')
  .description('say what files are: container, tracks, codecs, sizes, rates, key frames, length')
  .argument('<file...>')
  .option('--json', 'print JSON')
  .option('--quiet', 'no progress')
  .action((files, options) =>
    forEach(files, options, async (engine, file) => {
      const found = await engine.probe(resolve(file))
      if (!options.json) sayProbe(file, found)
      return found
    }),
  )

program
  .command('analyse')
  .description('measure loudness, silences, clipping and noise, propose cuts, and find slides')
  .argument('<file...>')
  .option('--out <path>', 'write the JSON there; a folder when there are several files')
  .option('--no-slides', 'leave the picture alone, which is much quicker')
  .option(
    '--threshold <dBFS>',
    'what is below counts as silence; without it, what the room’s noise says',
    decibels,
    'auto',
  )
  .option('--shortest <s>', 'shortest silence', seconds, 0.5)
  .option('--json', 'print JSON')
  .option('--quiet', 'no progress')
  .action((files, options) =>
    forEach(files, options, async (engine, file, progress) => {
      const found = await engine.analyse(
        resolve(file),
        { slides: options.slides, silence: { threshold: options.threshold, shortest: options.shortest } },
        progress,
      )
      if (options.out) writeFileSync(targetOf(file, options.out, files, 'json'), `${JSON.stringify(found, null, 2)}\n`)
      if (!options.json && found.sound)
        console.log(
          `${file}: ${found.sound.integratedLufs ?? '−∞'} LUFS, true peak ${found.sound.truePeakDbtp ?? '−∞'} dBTP, noise floor ${found.sound.noiseFloorDbfs ?? '−∞'} dBFS, ${found.sound.silences.length} silences, ${found.sound.proposedCuts.length} cuts proposed`,
        )
      if (!options.json && found.slides) console.log(`${file}: ${found.slides.length} slides`)
      return found
    }),
  )

program
  .command('render')
  .description('render files by an edit document; what is only cut is copied')
  .argument('<file...>', 'lectures, each rendered on its own with the same edit')
  .requiredOption('--out <path>', 'the file to make; a folder when there are several files, or for hls')
  .option('--edit <json>', 'the edit document; without one, the file is copied as it is')
  .addOption(new Option('--format <form>', 'what to make').choices(['mp4', 'webm', 'm4a', 'hls']))
  .option('--camera <file>', 'a second picture, shown as the edit’s layout says')
  .option('--sound <file>', 'sound to use instead of the file’s own')
  .option('--then <file...>', 'further takes, put end to end after each lecture')
  .option('--captions <vtt>', 'WebVTT in the result’s time, to be put into the file')
  .option('--language <code>', 'language of the captions', 'en')
  .option('--burn', 'put the captions into the picture, where they are always shown')
  .option('--json', 'print JSON')
  .option('--quiet', 'no progress')
  .action((files, options) => {
    const format = options.format ?? { '.mp4': 'mp4', '.webm': 'webm', '.m4a': 'm4a' }[extname(options.out)] ?? 'mp4'
    const edit = options.edit ? readJson(options.edit, 'edit document') : null
    let vtt = null
    try {
      vtt = options.captions ? readFileSync(options.captions, 'utf8') : null
    } catch {
      misuse(`The captions “${options.captions}” cannot be read.`)
    }
    if (options.burn && vtt === null) misuse('--burn needs --captions.')
    return forEach(files, options, async (engine, file, progress) => {
      const target = targetOf(file, options.out, files, format)
      if (resolve(target) === resolve(file))
        throw new Error('The result would stand where the recording is, which is never changed. Give another --out.')
      const made = await engine.render(
        {
          file: resolve(file),
          camera: options.camera && resolve(options.camera),
          sound: options.sound && resolve(options.sound),
          further: (options.then ?? []).map((path) => resolve(path)),
          edit,
          assets: options.edit ? assetsOf(edit, options.edit) : {},
          format,
          captions: vtt === null || options.burn ? null : { language: options.language, label: 'Captions', vtt },
          burnt: options.burn ? { vtt, links: [] } : null,
        },
        resolve(target),
        progress,
      )
      if (!options.json)
        console.log(
          `${target}: ${made.duration.toFixed(2)} s, ${made.encoded.toFixed(1)} s of picture encoded anew${made.note ? `. ${made.note}` : ''}`,
        )
      return { out: target, ...made }
    })
  })

program
  .command('finish')
  .description('put a finish on lectures: cards, mark, sound, trims and chapters as it says, and render each')
  .argument('<file...>', 'lectures; each is finished by itself')
  .requiredOption('--with <json>', 'the finish; its mark is found beside it')
  .requiredOption('--out <folder>', 'where the films, edit documents, chapters and report.json go')
  .option('--particulars <json>', 'what cards say of each lecture, by the name of its file')
  .option('--edits-only', 'render nothing')
  .option('--json', 'print JSON')
  .option('--quiet', 'no progress')
  .action(async (files, options) => {
    const finish = readJson(options.with, 'finish')
    const particulars = options.particulars ? readJson(options.particulars, 'list of particulars') : {}
    mkdirSync(options.out, { recursive: true })
    const names = files.map((file) => basename(file, extname(file)))
    const twice = names.find((name, i) => names.indexOf(name) !== i)
    if (twice) misuse(`Two of the files are called “${twice}”; their results would be the same.`)
    const report = []
    await forEach(files, options, async (engine, file, progress) => {
      const name = basename(file, extname(file))
      const to = (ending) => join(options.out, `${name}${ending}`)
      if (resolve(to('.mp4')) === resolve(file))
        throw new Error('The result would stand where the recording is, which is never changed. Give another --out.')
      const share = options.editsOnly ? 1 : 0.4
      const { edit, chapters, vtt, did, look } = await engine.finish(resolve(file), finish, particulars, (s) =>
        progress(share * s),
      )
      if (!options.editsOnly)
        await engine.render(
          { file: resolve(file), edit, assets: assetsOf(edit, options.with), format: 'mp4', chapters },
          resolve(to('.mp4')),
          (s) => progress(share + (1 - share) * s),
        )
      // Rendered from where it stands now, it finds its mark where that is.
      const { watermark } = edit
      const beside = (path) => relative(options.out, resolve(dirname(options.with), path))
      const kept = watermark ? { ...edit, watermark: { ...watermark, file: beside(watermark.file) } } : edit
      writeFileSync(to('.edit.json'), `${JSON.stringify(kept, null, 2)}\n`)
      if (vtt) writeFileSync(to('.chapters.vtt'), vtt)
      report.push({ file, did, look })
      if (!options.json) console.log([`${file}: ${did.join(' ')}`, ...look.map((says) => `  ! ${says}`)].join('\n'))
      return { did, look }
    })
    writeFileSync(join(options.out, 'report.json'), `${JSON.stringify(report, null, 2)}\n`)
  })

await program.parseAsync()
