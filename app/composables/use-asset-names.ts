/** What pictures and videos that are put in are called: by their files, as a person knows them. */
import { sayInsert } from '#core/edit/edit'
import type { InsertKind } from '#core/schema/edit'
import { useLive } from '~/composables/use-live'
import { assetsFor } from '~/services/assets'
import { useDesk } from '~/stores/desk'

/** @returns says what is put in: a card by its words, a picture or a video by its file’s name */
export function useAssetNames() {
  const desk = useDesk()
  const names = useLive(async () => {
    const lectureId = desk.lecture?.id
    const assets = lectureId ? await assetsFor(lectureId) : []
    return new Map(assets.map(({ hash, name }) => [hash, name.replace(/\.[^.]+$/, '')]))
  }, [() => desk.lecture?.id])
  return (what: InsertKind): string =>
    (what.kind === 'card' ? undefined : names.value?.get(what.file)) || sayInsert(what)
}
