import { max } from 'd3-array'
import { computed, ref, shallowRef, triggerRef } from 'vue'
import { nearStroke } from '#core/picture/strokes'
import type { Stroke } from '#core/schema/edit'

export type DrawingTool = 'pen' | 'highlighter' | 'eraser'
export const inks = [
  { name: 'Ember', value: '#b23a2e' },
  { name: 'Tarn', value: '#1b4b57' },
  { name: 'Marigold', value: '#e3a008' },
  { name: 'Snow', value: '#f6f7f3' },
] as const
/** Thickness as a share of the picture's height. */
export const widths = [
  { name: 'Thin', value: 0.004 },
  { name: 'Medium', value: 0.009 },
  { name: 'Thick', value: 0.018 },
] as const

/**
 * Drawing over the screen while it is recorded. Strokes are data with times; what is erased keeps its time too, so that
 * the recording shows it until then.
 * @param now seconds of recorded time
 * @param onChange told when a stroke is finished, erased or taken back
 */
export function useStrokes(now: () => number, onChange: (strokes: readonly Stroke[]) => void) {
  const strokes = shallowRef<Stroke[]>([])
  const tool = ref<DrawingTool | null>(null)
  const ink = ref<string>(inks[0].value)
  const width = ref<number>(widths[1].value)
  let current: Stroke | null = null
  const changed = () => {
    triggerRef(strokes)
    onChange(strokes.value)
  }
  const point = (x: number, y: number) => ({
    x: Math.min(1, Math.max(0, x)),
    y: Math.min(1, Math.max(0, y)),
    at: now(),
  })

  function erase(x: number, y: number, aspect: number): void {
    const hit = strokes.value.filter((s) => s.until === undefined && nearStroke(s, { x, y }, aspect, 0.012))
    if (hit.length === 0) return
    hit.forEach((s) => {
      s.until = now()
    })
    changed()
  }

  return {
    tool,
    ink,
    width,
    strokes,
    /** Those that are seen at this moment. */
    seen: computed(() => strokes.value.filter((s) => s.until === undefined)),
    /** @param aspect width by height of the picture */
    begin(x: number, y: number, aspect: number) {
      if (tool.value === 'eraser') return erase(x, y, aspect)
      if (!tool.value) return
      const wide = tool.value === 'highlighter'
      current = {
        colour: ink.value,
        width: wide ? 3 * width.value : width.value,
        opacity: wide ? 0.4 : 1,
        points: [point(x, y)],
      }
      strokes.value = [...strokes.value, current]
    },
    move(x: number, y: number, aspect: number) {
      if (tool.value === 'eraser') return erase(x, y, aspect)
      if (!current) return
      current.points.push(point(x, y))
      triggerRef(strokes)
    },
    end() {
      if (!current) return
      current = null
      changed()
    },
    /** Takes the last thing done back: a stroke that was drawn, or the latest that were erased together. */
    undo() {
      const erased = max(strokes.value, (s) => s.until ?? -1) ?? -Infinity
      const last = strokes.value.at(-1)
      if (!last) return
      if (erased > (last.points[0]?.at ?? 0))
        strokes.value
          .filter((s) => s.until === erased)
          .forEach((s) => {
            delete s.until
          })
      else strokes.value = strokes.value.slice(0, -1)
      changed()
    },
    clear() {
      const at = now()
      strokes.value
        .filter((s) => s.until === undefined)
        .forEach((s) => {
          s.until = at
        })
      changed()
    },
    reset() {
      strokes.value = []
      current = null
      tool.value = null
    },
  }
}
export type Strokes = ReturnType<typeof useStrokes>
