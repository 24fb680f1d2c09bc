/**
 * A made lecture of an hour goes from recorded to checked: what the recogniser heard wrongly is mended by the keyboard
 * alone, cue after cue. Counted are the keys that are pressed, and those that the course's word list saved. A chord (Alt and a
 * digit) counts as one.
 */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { diffArrays } from 'diff'
import type { ElementHandle, KeyInput } from 'puppeteer-core'
import { afterAll, expect, test } from 'vitest'
import { DOUBTFUL } from '#core/captions/track'
import { comparable, tokens } from '#core/captions/text'
import type { Cue } from '#core/schema/captions'
import { writeWav } from '#core/sound/wav'
import { lectures } from '../engine/lectures'
import { RATE, speakAll } from '../engine/spoken'
import { person } from '../person'
import { AUTHOR_KEY } from '../serve'
import { storedDocument } from '../stored'
import { say, share } from './server'
import { served } from '../served'

const SECONDS = 3600 * share
const folder = mkdtempSync(join(tmpdir(), 'thaw-hour-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

/** Sentences of the ten made lectures, in another order each time, for so many seconds. */
function lecture(seconds: number): { samples: Int16Array; words: string[] } {
  const all = lectures.flatMap((l) => l.script.match(/[^.?!]+[.?!]/g)!.map((s) => s.trim()))
  let state = 7
  // Park and Miller, CACM 31, 1988.
  const next = () => (state = (state * 16_807) % 2_147_483_647) / 2_147_483_647
  const said: string[] = []
  let length = 0
  while (length < seconds)
    for (const sentence of [...all].map((s) => [next(), s] as const).sort((a, b) => a[0] - b[0])) {
      if (length >= seconds) break
      length += speakAll([sentence[1]]).samples.length / RATE
      said.push(sentence[1])
    }
  return { samples: speakAll(said).samples, words: said.flatMap((s) => s.split(/\s+/)) }
}

/** What each cue is to say: the words of the script that its own stand for. */
function wanted(cues: readonly Cue[], script: readonly string[]): string[][] {
  const owners = cues.flatMap((c, i) => tokens(c.text).map(() => i))
  const heard = cues.flatMap((c) => tokens(c.text).map(comparable))
  const out: string[][] = cues.map(() => [])
  let [i, j] = [0, 0]
  const parts = diffArrays(heard, script.map(comparable))
  for (const [n, { count, added, removed }] of parts.entries()) {
    if (added) {
      // Words in whose stead others were heard stand where those do; others where the last one did.
      const before = parts[n - 1]
      const first = before?.removed ? i - before.count : i - 1
      const places = before?.removed ? before.count : 1
      for (let k = 0; k < count; k++)
        out[owners[Math.max(0, first + Math.min(places - 1, Math.floor((k * places) / count)))] ?? 0]?.push(
          script[j + k]!,
        )
      j += count
    } else if (removed) i += count
    else for (let k = 0; k < count; k++) out[owners[i++] ?? 0]?.push(script[j++]!)
  }
  return out
}

interface Hunk {
  at: number
  removed: number
  added: string[]
}
/** Where the words of a cue differ from what it is to say. */
function hunks(now: readonly string[], target: readonly string[]): Hunk[] {
  const out: Hunk[] = []
  let at = 0
  for (const { count, added, removed, value } of diffArrays(now.map(comparable), target.map(comparable))) {
    const last = out.at(-1)
    const open = last && last.at + last.removed === at ? last : null
    if (removed) {
      if (open) open.removed += count
      else out.push({ at, removed: count, added: [] })
      at += count
    } else if (added) {
      if (open) open.added.push(...value)
      else out.push({ at, removed: 0, added: [...value] })
    } else at += count
  }
  // As the script writes them.
  const written = new Map(target.map((w) => [comparable(w), w.replace(/[.?!,;:]+$/, '')]))
  return out.map((h) => ({ ...h, added: h.added.map((w) => written.get(w) ?? w) }))
}
/** Keys that mending a hunk takes: to the word, over those that go, and what is typed. */
const keysOf = ({ at, removed, added }: Hunk): number =>
  1 + at + removed + (added.length === 0 ? 1 : added.join(' ').length + 1)

test('an hour is gone through by the keyboard alone', async () => {
  const { samples, words } = lecture(SECONDS)
  const wav = join(folder, 'hour.wav')
  writeFileSync(wav, writeWav(new Uint8Array(samples.buffer), RATE))
  const film = join(folder, 'Firn and ice.m4a')
  execFileSync('ffmpeg', ['-v', 'error', '-i', wav, '-c:a', 'aac', '-b:a', '64k', film])
  const who = await person({ devices: false })
  const { page } = who
  const { keyboard } = page
  let pressed = 0
  const press = async (keys: string) => {
    const all = keys.split('+')
    for (const key of all.slice(0, -1)) await keyboard.down(key as KeyInput)
    await keyboard.press(all.at(-1) as KeyInput)
    for (const key of all.slice(0, -1)) await keyboard.up(key as KeyInput)
    pressed++
  }
  const type = async (text: string) => {
    await keyboard.type(text)
    pressed += text.length
  }

  await who.go(`${served.origin}/#key=${AUTHOR_KEY}`)
  await who.see('The term')
  await who.click('button', 'New lecture in PS 201, week 5')
  const input = (await page.waitForSelector('input[type=file]')) as ElementHandle<HTMLInputElement>
  await input.uploadFile(film)
  await page.waitForFunction(() => location.pathname.startsWith('/lecture/'))
  const id = new URL(page.url()).pathname.split('/')[2]!
  const track = async () => (await storedDocument(page, id, 'captions'))?.document ?? null
  await who.click('link', 'Captions: No captions yet')
  const begun = Date.now()
  await who.click('button', 'Draft captions from the speech')
  await page.waitForSelector('.cues .words', { timeout: 600_000 })
  // Asked again and again: one question that waits for an hour is more than a browser's connection does.
  await expect
    .poll(() => page.evaluate(() => document.querySelector('[aria-label="Drafting captions"]') === null), {
      ...{ timeout: 7_200_000, interval: 2000 },
    })
    .toBe(true)
  const took = (Date.now() - begun) / 1000
  const draft = (await track())!
  const goals = new Map(wanted(draft.cues, words).map((target, i) => [draft.cues[i]!.id, target]))
  const alone = draft.cues.map((c) => hunks(tokens(c.text), goals.get(c.id)!))
  const wrong = alone.flat().length
  /** Keys that it takes to write all of it instead. */
  const written = words.join(' ').length

  // Capitals and full stops first: what is confirmed stays as it is.
  await who.pick('More', 'Capitals and full stops')
  await page.waitForSelector('.el-dialog .found')
  await page.evaluate(() =>
    [...document.querySelectorAll<HTMLElement>('.el-dialog .el-button--primary')].at(-1)?.click(),
  )
  pressed += 12
  await page.waitForFunction(() => !document.querySelector('.el-dialog'))
  await who.click('button', 'Go through them one by one')
  pressed += 4

  /** Presses keys until the cursor stands behind so many words, as one does who looks. */
  async function goTo(field: ElementHandle, count: number, keys: string): Promise<void> {
    const ends = [...(await field.evaluate((e) => (e as HTMLTextAreaElement).value)).matchAll(/\S+/g)].map(
      (m) => m.index + m[0].replace(/[.?!,;:]+$/, '').length,
    )
    const end = count === 0 ? 0 : (ends[count - 1] ?? 0)
    for (let k = 0; k < 80; k++) {
      if ((await field.evaluate((e) => (e as HTMLTextAreaElement).selectionEnd)) >= end) return
      await press(keys)
    }
  }

  let [byOther, offers, saved, typedWords] = [0, 0, 0, 0]
  const current = () => page.$eval('.cue.open', (e) => (e as HTMLElement).dataset.cue!)
  for (;;) {
    const open = await page.waitForSelector('.cue.open textarea', { timeout: 10_000 }).catch(() => null)
    if (!open) break
    const cueId = await current()
    await page.waitForFunction(
      (wantedId) => document.activeElement?.closest<HTMLElement>('.cue.open')?.dataset.cue === wantedId,
      {},
      cueId,
    )
    const target = goals.get(cueId)!
    for (let round = 0; round < 30; round++) {
      const cue = (await track())!.cues.find((c) => c.id === cueId)!
      const now = tokens(await open.evaluate((e) => (e as HTMLTextAreaElement).value))
      const [hunk] = hunks(now, target).reverse()
      if (!hunk) break
      const doubt = (cue.words ?? []).findIndex((w) => w.confidence < DOUBTFUL)
      const other = cue.words?.[doubt]?.alternatives?.findIndex(
        (a) => comparable(a) === comparable(hunk.added[0] ?? ''),
      )
      const [first] = hunks(now, target)
      if (first?.at === doubt && first.removed === 1 && first.added.length === 1 && other !== undefined && other >= 0) {
        await press(`Alt+Digit${other + 1}`)
        byOther++
        await page
          .waitForFunction(
            (e, before) => (e as HTMLTextAreaElement).value !== before,
            {},
            open,
            await open.evaluate((e) => (e as HTMLTextAreaElement).value),
          )
          .catch(() => undefined)
        continue
      }
      await press('Control+Home')
      await goTo(open, hunk.at, 'Control+ArrowRight')
      if (hunk.removed > 0) await goTo(open, hunk.at + hunk.removed, 'Shift+Control+ArrowRight')
      if (hunk.added.length > 0) await type(`${hunk.at > 0 ? ' ' : ''}${hunk.added.join(' ')}${hunk.at > 0 ? '' : ' '}`)
      else await press('Delete')
      typedWords += hunk.added.length
      const got = tokens(await open.evaluate((e) => (e as HTMLTextAreaElement).value))
      if (hunks(got, target).length >= hunks(now, target).length) {
        // Keys went elsewhere than thought: the whole is written anew, as a person would.
        await press('Control+a')
        await type(target.join(' '))
      }
      // What is wrong in the same way elsewhere is replaced there too.
      if (hunk.removed > 0 && hunk.added.length > 0 && hunk.added.join('').length > 3) {
        const heard = now
          .slice(hunk.at, hunk.at + hunk.removed)
          .map(comparable)
          .join(' ')
        const said = hunk.added.map(comparable).join(' ')
        const later = (await track())!.cues.filter((c) => c.id !== cueId && !c.checked)
        const elsewhere = later.flatMap((c) =>
          hunks(tokens(c.text), goals.get(c.id)!).filter(
            (h) =>
              h.added.map(comparable).join(' ') === said &&
              tokens(c.text)
                .slice(h.at, h.at + h.removed)
                .map(comparable)
                .join(' ') === heard,
          ),
        )
        const wronged = later.filter((c) => tokens(c.text).map(comparable).join(' ').includes(heard)).length
        // Only what is offered is taken: it comes when what was written has been stored.
        const isOffered = () =>
          page
            .waitForFunction(
              (offer) => {
                const shown = document.querySelector<HTMLElement>('.offer')?.innerText.toLowerCase() ?? ''
                return shown.includes(offer) && shown.includes('wrong')
              },
              { timeout: 3000 },
              `“${heard}” is “${said}”`,
            )
            .then(
              () => true,
              () => false,
            )
        if (elsewhere.length >= 2 && wronged === elsewhere.length && (await isOffered())) {
          await press('Alt+KeyR')
          await page.waitForFunction(() => document.activeElement?.matches('.el-dialog .el-button--primary'))
          await press('Enter')
          await who.see('Replaced ')
          await press('Escape')
          await page.waitForFunction(() => document.activeElement?.matches('.cue.open textarea'))
          offers++
          saved += elsewhere.reduce((sum, h) => sum + keysOf(h), 0) - 3
        }
      }
    }
    await press('Enter')
    await page.waitForFunction(
      (wantedId) => document.querySelector<HTMLElement>('.cue.open')?.dataset.cue !== wantedId,
      {},
      cueId,
    )
  }
  const after = (await track())!
  const said = after.cues.flatMap((c) => tokens(c.text))
  expect(said.map(comparable)).toEqual(words.map(comparable))
  expect(after.cues.every((c) => c.checked)).toBe(true)
  const ends = words.filter((w) => /[.?!]$/.test(w)).length
  say(
    JSON.stringify({
      seconds: Math.round(samples.length / RATE),
      drafting: `${Math.round(took)} s, ${(took / (samples.length / RATE)).toFixed(2)} of its length`,
      words: words.length,
      cues: draft.cues.length,
      wrong,
      pressed,
      'without the word list': pressed + saved,
      'to write it all': written,
      'replaced everywhere': offers,
      'taken from what else was heard': byOther,
      typedWords,
      'full stops': `${said.filter((w) => /[.?!]$/.test(w)).length} of ${ends}`,
    }),
  )
  expect(pressed).toBeLessThan(written)
  await who.click('button', 'Mark them as checked')
  await expect.poll(async () => (await track())!.state).not.toBe('draft')
  await who.leave()
})
