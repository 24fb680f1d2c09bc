import { computed } from 'vue'
import { proposeFromTrack, type ProposedWordCut } from '#core/captions/propose-word-cuts'
import { takeAt, type PlacedProposal } from '#core/record/recording'
import { openProposals } from '#core/sound/silence'
import { recorded } from '#core/time/units'
import { useDesk } from '~/stores/desk'

/** A cut that is proposed, by the sound or by what is said, and which one of which take it is. */
export type AnyProposal = PlacedProposal | (ProposedWordCut & Pick<PlacedProposal, 'takeId' | 'own'>)

/** What proposals are taken together as. */
export const proposalKinds = [
  { name: 'Before it begins', reasons: ['start', 'false-start'] },
  { name: 'Long pauses', reasons: ['pause'] },
  { name: 'Coughs and bumps', reasons: ['cough', 'bump'] },
  { name: 'Filled pauses', reasons: ['filled-pause'] },
  { name: 'Said twice', reasons: ['repetition'] },
  { name: 'Begun again', reasons: ['restart'] },
  { name: 'After it has ended', reasons: ['end'] },
] as const

/** The cuts that are proposed for the lecture on the desk, and have neither been made nor left. */
export function useProposals() {
  const desk = useDesk()
  const found = useSoundFound(() => desk.recording)
  const byWords = computed(() => {
    const { recording, spoken } = desk
    if (!recording) return []
    return proposeFromTrack(spoken, recording.duration).map((cut) => {
      const take = takeAt(recording, cut.from)
      return { ...cut, takeId: take.id, own: recorded(cut.from - take.from) }
    })
  })
  const all = computed<AnyProposal[]>(() => [
    ...found.proposals.value,
    ...byWords.value.filter((p) => !found.isLeft(p)),
  ])
  return {
    found,
    proposals: computed(() => openProposals(desk.map, all.value)),
  }
}
