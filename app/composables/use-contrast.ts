import { watchDebounced } from '@vueuse/core'
import { shallowRef } from 'vue'
import { contrast, contrastOver, luminanceOf } from '#core/picture/contrast'
import type { Stretch } from '#core/schema/edit'
import { feedOf, stageKey } from '~/composables/use-stage'
import { useDesk } from '~/stores/desk'
import { injectStrict } from '~/utils/inject'

/** Width of what is looked at, px. */
const SAMPLE = 96

/** How well a text on the picture can be read: the contrast of its ink to its ground, or to the picture at the playhead. */
export function useContrast(text: () => Stretch | null) {
  const desk = useDesk()
  const stage = injectStrict(stageKey)
  /** 1 to 21; null while nothing can be said. */
  const ratio = shallowRef<number | null>(null)

  function look(): number | null {
    const stretch = text()
    if (!stretch || stretch.what.kind !== 'text') return null
    const { ink, ground, box } = stretch.what
    if (ground) return contrast(luminanceOf(ink), luminanceOf(ground))
    const label = desk.recording?.feeds.find((f) => f.id === feedOf(stretch))?.label
    const video = [...document.querySelectorAll<HTMLVideoElement>('.frame video')].find(
      (v) => v.ariaLabel === label && v.videoWidth > 0 && v.offsetParent !== null,
    )
    if (!video || stage.baseOf(feedOf(stretch)) === null) return null
    const [width, height] = [box.width * video.videoWidth, box.height * video.videoHeight]
    const canvas = new OffscreenCanvas(SAMPLE, Math.max(1, Math.round((SAMPLE * height) / width)))
    const g = canvas.getContext('2d', { willReadFrequently: true })
    if (!g) return null
    g.drawImage(
      video,
      box.x * video.videoWidth,
      box.y * video.videoHeight,
      width,
      height,
      0,
      0,
      canvas.width,
      canvas.height,
    )
    return contrastOver(ink, g.getImageData(0, 0, canvas.width, canvas.height).data)
  }
  watchDebounced(
    [text, () => desk.recordedTime, () => stage.seen.value],
    () => {
      ratio.value = look()
    },
    { debounce: 250, immediate: true },
  )
  return { ratio }
}
