/**
 * The open lecture: its documents, what they add up to, and the commands on them. Every change is stored as it
 * is made; the arithmetic is the core's.
 */
import { defineStore } from 'pinia'
import { db } from '~/db/database'
import { newId } from '~/services/ids'
import type { LectureParts, Particulars } from '~/services/lectures'
import { describeLecture, loadCheckedParts, loadParts, storeEdit } from '~/services/lectures'
import { apply, editState, editTimeMap, goTo, InvalidEdit, redo, undo } from '#core/edit/edit'
import type { CaptionTrack } from '#core/schema/captions'
import type { EditCommand, EditDocument } from '#core/schema/edit'
import type { Course } from '#core/schema/lecture'
import type { Checkpoint, QuestionSet } from '#core/schema/questions'
import { newCheckpoint, newQuestionSet } from '#core/questions/grade'
import { recordingState } from '#core/record/recording'
import { nextKept, projectInstants, type TimeMap } from '#core/time/time-map'
import { recorded, type RecordedRange, type RecordedTime } from '#core/time/units'

const emptyMap: TimeMap = { duration: recorded(0), length: 0 as TimeMap['length'], kept: [], inserts: [], removed: [] }

export const useDesk = defineStore('desk', () => {
  const parts = shallowRef<LectureParts | null>(null)
  const course = shallowRef<Course | null>(null)
  const problem = ref('')
  /** Playhead, s of recorded time. */
  const time = ref(recorded(0))
  const playing = ref(false)
  const selection = shallowRef<RecordedRange | null>(null)
  const activeCheckpoint = ref<string | null>(null)

  const lecture = computed(() => parts.value?.lecture ?? null)
  const takes = computed(() => parts.value?.takes ?? [])
  const recording = computed(() => parts.value?.recording ?? null)
  const recordingIs = computed(() => recordingState(takes.value))
  const edit = computed(() => parts.value?.edit ?? null)
  const captions = computed(() => parts.value?.captions ?? null)
  const questions = computed(() => parts.value?.questions ?? null)
  const map = computed(() => (edit.value ? editTimeMap(edit.value) : emptyMap))
  const state = computed(() => (edit.value ? editState(edit.value) : null))
  const lostCheckpoints = computed(() => projectInstants(map.value, questions.value?.checkpoints ?? [], (c) => c.at).lost)

  async function open(lectureId: string): Promise<void> {
    const found = await loadCheckedParts(lectureId)
    parts.value = found
    course.value = found ? ((await db.courses.get(found.lecture.courseId)) ?? null) : null
    time.value = (edit.value && nextKept(map.value, recorded(0))) ?? recorded(0)
    playing.value = false
    selection.value = null
    activeCheckpoint.value = null
    problem.value = ''
  }

  /** Takes over what a job changed in the database meanwhile; the playhead stays, and what is changed here while reading wins. */
  async function refresh(): Promise<void> {
    for (;;) {
      const before = parts.value
      if (!before) return
      const found = await loadParts(before.lecture.id)
      if (parts.value !== before) continue
      parts.value = found
      return
    }
  }

  function put<K extends keyof LectureParts>(key: K, value: LectureParts[K]): void {
    if (parts.value) parts.value = { ...parts.value, [key]: value }
  }

  async function changeEdit(change: (edit: EditDocument) => EditDocument): Promise<void> {
    if (!lecture.value || !edit.value) return
    const next = change(edit.value)
    put('edit', next)
    await storeEdit(lecture.value.id, next, change)
  }

  /** Does an edit; what does not fit is said in `problem` and changes nothing. */
  async function command(what: EditCommand): Promise<boolean> {
    if (!edit.value) return false
    try {
      problem.value = ''
      await changeEdit((e) => apply(e, what))
      return true
    } catch (error) {
      if (!(error instanceof InvalidEdit)) throw error
      problem.value = error.message
      return false
    }
  }

  const remove = (from: number, to: number, reason?: 'trim') => command({ do: 'remove', id: newId(), from: recorded(from), to: recorded(to), ...(reason && { reason }) })

  async function removeSelection(): Promise<void> {
    const range = selection.value
    if (!range) return
    selection.value = null
    await remove(range.from, range.to)
  }

  async function storeCaptions(track: CaptionTrack | null): Promise<void> {
    if (!lecture.value) return
    put('captions', track)
    if (track) await db.captions.put({ lectureId: lecture.value.id, track })
    else await db.captions.delete(lecture.value.id)
  }

  async function storeQuestions(set: QuestionSet): Promise<void> {
    if (!lecture.value) return
    put('questions', set)
    await db.questions.put({ lectureId: lecture.value.id, set })
  }

  async function addCheckpoint(at: RecordedTime): Promise<void> {
    const set = questions.value ?? newQuestionSet(lecture.value?.title ?? '')
    const checkpoint = newCheckpoint(at, newId)
    await storeQuestions({ ...set, checkpoints: [...set.checkpoints, checkpoint].sort((a, b) => a.at - b.at) })
    activeCheckpoint.value = checkpoint.id
  }

  async function changeCheckpoint(next: Checkpoint): Promise<void> {
    const set = questions.value
    if (set) await storeQuestions({ ...set, checkpoints: set.checkpoints.map((c) => (c.id === next.id ? next : c)).sort((a, b) => a.at - b.at) })
  }

  async function removeCheckpoint(id: string): Promise<void> {
    const set = questions.value
    if (set) await storeQuestions({ ...set, checkpoints: set.checkpoints.filter((c) => c.id !== id) })
    if (activeCheckpoint.value === id) activeCheckpoint.value = null
  }

  /** Changes a lecture's particulars. */
  async function describe(changes: Partial<Particulars>): Promise<void> {
    if (!lecture.value) return
    put('lecture', { ...lecture.value, ...changes })
    await describeLecture(lecture.value, changes)
    if (changes.courseId) course.value = (await db.courses.get(changes.courseId)) ?? null
  }

  return {
    parts, course, problem, time, playing, selection, activeCheckpoint,
    lecture, takes, recording, recordingIs, edit, captions, questions, map, state, lostCheckpoints,
    open, refresh, command, remove, removeSelection,
    undo: () => changeEdit(undo), redo: () => changeEdit(redo), goTo: (n: number) => changeEdit((e) => goTo(e, n)),
    storeCaptions, addCheckpoint, changeCheckpoint, removeCheckpoint, describe,
  }
})
