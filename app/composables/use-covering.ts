import { computed, ref, watch } from 'vue'
import { coveringCues, isFootWritten, laidAtFoot } from '#core/captions/position'
import type { CaptionTrack } from '#core/schema/captions'
import { recorded } from '#core/time/units'
import { scriptPlayerKey } from '~/composables/use-script-player'
import { useStills } from '~/composables/use-stills'
import { useDesk } from '~/stores/desk'
import { injectStrict } from '~/utils/inject'

/** Width at which a slide is looked at, px: letters are some pixels high. */
const WIDTH = 640

async function isWritten(image: Blob): Promise<boolean> {
  const bitmap = await createImageBitmap(image, { resizeWidth: WIDTH, resizeQuality: 'medium' })
  const canvas = new OffscreenCanvas(bitmap.width, bitmap.height)
  const context = canvas.getContext('2d', { willReadFrequently: true })
  context?.drawImage(bitmap, 0, 0)
  const { width, height } = bitmap
  bitmap.close()
  const pixels = context?.getImageData(0, 0, width, height)
  return pixels ? isFootWritten(pixels.data, width, height) : false
}

/** Ids of the cues of a track that cover what is laid over, or written, at the foot of the picture. */
export function useCovering(track: () => CaptionTrack | null) {
  const desk = useDesk()
  const media = injectStrict(scriptPlayerKey)
  const { slides } = useStills(() => desk.recording)
  /** What was found of each slide. */
  const found = new Map<Blob, boolean>()
  const written = ref<boolean[]>([])
  watch(
    slides,
    async (now) => {
      for (const { image } of now) if (!found.has(image)) found.set(image, await isWritten(image))
      written.value = now.map((s) => found.get(s.image) ?? false)
    },
    { immediate: true },
  )
  const laid = computed(() => (media.script.value ? laidAtFoot(media.script.value) : []))
  const stretches = computed(() =>
    slides.value.flatMap(({ at }, i) =>
      written.value[i] ? [{ from: recorded(at), to: recorded(slides.value[i + 1]?.at ?? desk.map.duration) }] : [],
    ),
  )
  return computed(() => coveringCues(track()?.cues ?? [], desk.map, laid.value, stretches.value))
}
