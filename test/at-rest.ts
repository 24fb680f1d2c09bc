/** Waiting for what is meant, and not for a time: that nothing moves any more, or that time itself has passed. */
import type { Frame, Page } from 'puppeteer-core'

/**
 * Waits until nothing moves on a page: what is to be drawn is drawn, and every transition and animation that has an end
 * has come to it, so that dialogs and lists stand where they will be pressed and colours are what they will be.
 */
export async function atRest(target: Page | Frame): Promise<void> {
  await target.waitForFunction(
    async () => {
      // A transition begins with the second frame after what it follows from.
      for (let frame = 0; frame < 3; frame++) await new Promise((resolve) => requestAnimationFrame(resolve))
      return !document.getAnimations().some((a) => {
        const { iterations, duration } = a.effect?.getComputedTiming() ?? {}
        return a.playState === 'running' && iterations !== Infinity && Number(duration) > 0
      })
    },
    { timeout: 30_000, polling: 50 },
  )
}

/**
 * Lets time pass where that is what is tested: that for so many seconds nothing comes, goes or counts on. For whatever does
 * come, wait for it instead.
 */
export const letPass = (seconds: number) => new Promise<void>((resolve) => setTimeout(resolve, 1000 * seconds))
