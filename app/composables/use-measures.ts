import { MEASURES, type MeasuresName } from '#core/captions/checks'
import { db } from '~/db/database'

const KEY = 'caption-measures'
const isName = (name: string): name is MeasuresName => name in MEASURES

/** By which measures captions are checked in this browser. */
export function useMeasures() {
  const row = useLive(() => db.settings.get(KEY))
  const name = computed<MeasuresName>(() => {
    const kept = row.value?.value ?? ''
    return isName(kept) ? kept : 'lectures'
  })
  return {
    name,
    measures: computed(() => MEASURES[name.value]),
    choose: (next: MeasuresName) => db.settings.put({ key: KEY, value: next }),
  }
}
