/** A person at a browser: finds things by what is seen (roles and names), waits for them, and says what was missing. */
import type { Browser, ElementHandle, Frame, Page } from 'puppeteer-core'
import { launchChromium } from '../scripts/chromium.mjs'
import { atLength } from './at-length'
import { atRest, letPass } from './at-rest'
import { served } from './served'

export interface Person {
  browser: Browser
  page: Page
  /** Errors that the page itself threw. */
  errors: string[]
  go(url: string): Promise<void>
  see(text: string, timeout?: number): Promise<void>
  /** Waits until it is not to be seen, or not any more; say first what shows that the page has come. */
  notSee(text: string): Promise<void>
  /** Waits until the recorder's clock shows at least so many seconds. */
  recordFor(seconds: number): Promise<void>
  find(role: string, name: string, timeout?: number): Promise<ElementHandle<Element>>
  click(role: string, name: string): Promise<void>
  /** Does what the browser does when a camera is unplugged or a share is ended: the picture's track ends by itself. */
  unplug(label: string): Promise<void>
  /** Unfolds a list and takes something from it. */
  choose(list: string, option: string): Promise<void>
  /** Unfolds a menu and takes something from it. */
  pick(menu: string, item: string): Promise<void>
  /** Replaces what stands in a field. */
  type(name: string, text: string, role?: string): Promise<void>
  leave(): Promise<void>
}

/** What fades and slides takes a tenth of the machine: it does so in the trials. */
const STILL = atLength ? {} : { args: ['--force-prefers-reduced-motion'] }
const quote = (text: string) => text.replace(/["\\]/g, '\\$&')

/**
 * Waits for what has a role and a name. Each look has the browser work its tree of what is accessible out; Puppeteer's own
 * wait would have it do so for every frame, which takes more of the machine than the page that is waited for.
 */
export async function byRole(
  target: Page | Frame,
  role: string,
  name: string,
  timeout = 30_000,
): Promise<ElementHandle<Element>> {
  const until = Date.now() + timeout
  for (;;) {
    // While a page is being left there is none to ask.
    const found = await target.$(`::-p-aria([name="${quote(name)}"][role="${role}"])`).catch((error: unknown) => {
      if (Date.now() > until) throw error
      return null
    })
    if (found) return found
    if (Date.now() > until) throw new Error(`${role} “${name}” did not come within ${timeout / 1000} s`)
    await letPass(0.1)
  }
}

async function pressOn(target: Page | Frame, found: ElementHandle<Element>, role: string, name: string): Promise<void> {
  // What cannot be pressed yet is waited for; a press on it would be lost.
  await target
    .waitForFunction((e) => !e.matches(':disabled, [aria-disabled=true]'), {}, found)
    .catch((cause: unknown) => {
      throw new Error(`The ${role} “${name}” on ${target.url()} cannot be pressed.`, { cause })
    })
  // A styled switch or radio hides its input; a person clicks what is drawn around it.
  const handle = await found.evaluateHandle((e) => {
    let at: Element = e
    while (at.getBoundingClientRect().width < 6 && at.parentElement) at = at.parentElement
    at.scrollIntoView({ block: 'center' })
    return at
  })
  // What still moves, or lies under a dialog or a list that is fading away, is waited for too.
  await target
    .waitForFunction(
      async (e) => {
        const frame = () => new Promise((resolve) => requestAnimationFrame(resolve))
        const { left, top, width, height } = e.getBoundingClientRect()
        await frame().then(frame)
        const now = e.getBoundingClientRect()
        const hit = document.elementFromPoint(left + width / 2, top + height / 2)
        const over = hit?.closest('.el-overlay, .el-popper')
        return now.left === left && now.top === top && (!over || over.contains(e))
      },
      { timeout: 20_000 },
      handle as ElementHandle<Element>,
    )
    .catch(async (cause: unknown) => {
      const over = await handle.evaluate((e) => {
        const { left, top, width, height } = (e as Element).getBoundingClientRect()
        const hit = document.elementFromPoint(left + width / 2, top + height / 2)
        const over = hit?.closest<HTMLElement>('.el-overlay, .el-popper')
        return over && !over.contains(e as Element)
          ? `lies under “${over.innerText.slice(0, 200)}”`
          : `moves (${left}, ${top} now)`
      })
      throw new Error(`The ${role} “${name}” on ${target.url()} ${over}.`, { cause })
    })
  const isLeft = await found.evaluate((e) => {
    const link = e.closest('a')
    if (!link?.href || link.target || link.hasAttribute('download')) return false
    if (link.origin + link.pathname === location.origin + location.pathname) return false
    // What the page says of itself may be said by the next one, too: it is known by this mark.
    ;(document.querySelector('main > *') ?? document.body).setAttribute('data-left', '')
    return true
  })
  await handle.click()
  // Whoever follows a link reads on when the other page has come.
  if (isLeft) await target.waitForFunction(() => !document.querySelector('[data-left]'))
}

/** Presses what has a role and a name, on a page or in the player that it frames, as soon as that stands still. */
export const press = (target: Page | Frame, role: string, name: string): Promise<void> =>
  pressFound(target, role, name, () => byRole(target, role, name))

async function pressFound(
  target: Page | Frame,
  role: string,
  name: string,
  find: () => Promise<ElementHandle<Element>>,
  again = 3,
): Promise<void> {
  const found = await find()
  try {
    await pressOn(target, found, role, name)
  } catch (error) {
    /** Whether the page has drawn another one in its place since; a person does not notice. */
    const isReplaced = await found.evaluate((e) => !e.isConnected).catch(() => true)
    if (again === 0 || !isReplaced) throw error
    await pressFound(target, role, name, find, again - 1)
  }
}

/** Waits until a page, or the player that it frames, says something; also of one that lies behind another and draws nothing. */
export async function sees(target: Page | Frame, text: string, timeout = 30_000): Promise<void> {
  try {
    await target.waitForFunction((t) => document.body.innerText.includes(t), { timeout, polling: 200 }, text)
  } catch (cause) {
    const says = await target
      .evaluate(() => document.body.innerText.slice(0, 2000))
      .catch((error: unknown) => `nothing (${String(error)})`)
    throw new Error(`“${text}” is not to be seen on ${target.url()}. The page says:\n${says}`, { cause })
  }
}

/** @param options `from: undefined` for a browser that has never been here */
export async function person(options: Parameters<typeof launchChromium>[0] = {}): Promise<Person> {
  const browser = (await launchChromium({ from: served.profile, ...STILL, ...options })) as Browser
  const page = (await browser.pages())[0] ?? (await browser.newPage())
  const errors: string[] = []
  page.on('pageerror', (error) =>
    errors.push(error instanceof Error ? `${error.message}\n${error.stack ?? ''}` : String(error)),
  )
  // What the page's own policy refuses is missing on it.
  page.on('console', (message) => {
    if (message.type() === 'error' && message.text().includes('Content Security Policy'))
      errors.push(message.text().slice(0, 500))
  })
  // A page that has crashed never answers; with its browser closed, whatever waits for it fails at once.
  page.on('error', (error) => {
    errors.push(`The page crashed: ${error.message}`)
    // Said at once: the test that runs fails by whatever it was waiting for.
    console.error(`The page crashed on ${page.url()}: ${error.message}`)
    void browser.close()
  })
  // Asked whether the page may be left, one who leaves says yes.
  page.on('dialog', (dialog) => void (dialog.type() === 'beforeunload' && dialog.accept()))
  page.setDefaultTimeout(30_000)

  const find = async (role: string, name: string, timeout = 30_000) => {
    try {
      return await byRole(page, role, name, timeout)
    } catch (cause) {
      const text = await page
        .evaluate(() => document.body.innerText.slice(0, 1500))
        .catch((error: unknown) => `nothing (${String(error)}) ${errors.join(' ')}`)
      throw new Error(`There is no ${role} “${name}” on ${page.url()}. The page says:\n${text}`, { cause })
    }
  }
  const click = (role: string, name: string) => pressFound(page, role, name, () => find(role, name))
  /** Waits until no list of a kind is unfolded: while one folds up, it lies over what is pressed next. */
  const folded = (role: string) =>
    page.waitForFunction(
      (r) => [...document.querySelectorAll(`[role=${r}]`)].every((m) => m.getBoundingClientRect().width === 0),
      {},
      role,
    )
  return {
    browser,
    page,
    errors,
    find,
    click,
    unplug: (label) =>
      page.$eval(`[aria-label="Live picture: ${label}"]`, (v) => {
        const track = ((v as HTMLVideoElement).srcObject as MediaStream).getVideoTracks()[0]
        track?.stop()
        track?.dispatchEvent(new Event('ended'))
      }),
    async choose(list, option) {
      await click('combobox', list)
      await find('option', option)
      await atRest(page)
      await click('option', option)
      await folded('listbox')
    },
    async pick(menu, item) {
      await click('button', menu)
      await find('menuitem', item)
      await atRest(page)
      await click('menuitem', item)
      await folded('menu')
    },
    async go(url) {
      await page.goto(url, { waitUntil: 'load' })
    },
    see: (text, timeout) => sees(page, text, timeout),
    async notSee(text) {
      await page
        .waitForFunction((t) => !document.body.innerText.includes(t), { timeout: 10_000, polling: 100 }, text)
        .catch((cause: unknown) => {
          throw new Error(`“${text}” is to be seen on ${page.url()}, and should not.`, { cause })
        })
    },
    async recordFor(seconds) {
      await page.waitForFunction(
        (least) => {
          const shown = document.querySelector('[role=timer] .mono')?.textContent ?? ''
          return shown !== '' && shown.split(':').reduce((sum, part) => 60 * sum + Number(part), 0) >= least
        },
        { timeout: 90_000, polling: 200 },
        seconds,
      )
    },
    async type(name, text, role = 'textbox') {
      const field = await find(role, name)
      await field.click({ count: 3 })
      await page.keyboard.down('Control')
      await page.keyboard.press('a')
      await page.keyboard.up('Control')
      await field.type(text)
      await page.keyboard.press('Tab')
    },
    async leave() {
      await browser.close()
    },
  }
}

/**
 * Leaves a lecture's desk again and again while it is published, which begins anew each time, at one instant after the
 * other of its first second. @param lecture its address
 */
export async function leavePublishing(who: Person, lecture: string, rounds: number): Promise<void> {
  for (let round = 0; round < rounds; round++) {
    await who.go(`${lecture}?step=released`)
    await who.page.waitForSelector('.lane.sound canvas', { timeout: 60_000 })
    // One that was cut off may be under way again, and has no such button.
    await who.page.evaluate(() =>
      [...document.querySelectorAll('button')].find((b) => b.textContent?.trim() === 'Publish again')?.click(),
    )
    await letPass(((round * 87) % 1000) / 1000)
  }
  await who.go(`${lecture}?step=released`)
}
