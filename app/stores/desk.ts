/**
 * The lecture on the desk: its documents, what is done to them, the playhead and the selection. Every change is shown at
 * once and stored in one transaction with its step of the history; what is being typed is stored at rest.
 */
import equal from 'fast-deep-equal'
import { defineStore } from 'pinia'
import { db } from '~/db/database'
import { decide, goToStep, newRow, storeDocument, travel, type Doing } from '~/services/documents'
import { loadParts, type LectureParts } from '~/services/cards'
import { documentOf, documentsOf } from '~/services/fingerprint'
import { newId } from '~/services/ids'
import { describeLecture, loadCheckedParts, type Particulars } from '~/services/lectures'
import type { Conflict } from '#core/documents/change'
import type { Difference } from '#core/documents/differences'
import { documentId, type DocumentName, type Documents, type Kind } from '#core/documents/kinds'
import type { EditDocument } from '#core/schema/edit'
import {
  apply,
  cutsIn,
  describe as describeCommand,
  editTimeMap,
  InvalidEdit,
  removeAll,
  restoring,
  reveal,
} from '#core/edit/edit'
import type { CaptionTrack } from '#core/schema/captions'
import type { EditCommand } from '#core/schema/edit-command'
import type { Course } from '#core/schema/lecture'
import type { Checkpoint, QuestionSet } from '#core/schema/questions'
import type { QuestionKindName } from '#core/questions/kinds'
import { byCheckpoint, newCheckpoint, newQuestionSet } from '#core/questions/set'
import { recordingState } from '#core/record/recording'
import { errorMessage } from '#core/text/error-message'
import { carryOver, projectInstants, toRecorded, toResult, type TimeMap } from '#core/time/time-map'
import { formatTimecode } from '#core/time/timecode'
import { recorded, result, type RecordedRange, type RecordedTime } from '#core/time/units'

const emptyMap: TimeMap = { duration: recorded(0), length: 0 as TimeMap['length'], kept: [], inserts: [], removed: [] }

/** How long nothing is typed before what was typed is stored, ms. */
const REST = 700

/** A change that is shown and not stored yet. */
interface Pending {
  lectureId: string
  name: DocumentName
  /** What `next` was made of. */
  before: Documents[Kind] | null
  next: Documents[Kind]
  doing: Doing
}

/** What was read anew, with what says the same as before being the same: what shows it is not drawn again. */
function unchanged(before: LectureParts, found: LectureParts): LectureParts {
  const rows = found.rows.map((row) => {
    const known = before.rows.find((r) => r.id === row.id)
    if (known && equal(known, row)) return known
    return known && equal(known.document, row.document) ? { ...row, document: known.document } : row
  })
  const same = (key: keyof LectureParts) => (equal(found[key], before[key]) ? before[key] : found[key])
  const kept = {
    ...Object.fromEntries(Object.keys(found).map((key) => [key, same(key as keyof LectureParts)])),
    rows: rows.length === before.rows.length && rows.every((r, i) => r === before.rows[i]) ? before.rows : rows,
  } as unknown as LectureParts
  return (Object.keys(kept) as (keyof LectureParts)[]).every((key) => kept[key] === before[key]) ? before : kept
}

export const useDesk = defineStore('desk', () => {
  const parts = shallowRef<LectureParts | null>(null)
  const course = shallowRef<Course | null>(null)
  const problem = ref('')
  /** Playhead, s of the result. */
  const time = ref(result(0))
  /** The instant of a removed part that is looked at; null while the playhead stands in the result. */
  const peek = ref<RecordedTime | null>(null)
  const playing = ref(false)
  const selection = shallowRef<RecordedRange | null>(null)
  const activeCheckpoint = ref<string | null>(null)
  /** The cue that is open in the captions' sheet. */
  const activeCue = ref<string | null>(null)
  /** The caption track that is open. */
  const track = ref<DocumentName<'captions'>>('captions')
  /** The set of questions that is open. */
  const set = ref<DocumentName<'questions'>>('questions')
  /** Which part of the tidying sheet is open. */
  const tab = ref('edits')
  /** Whether the sound is heard as it is treated, where it is, rather than as it was recorded. */
  const hearsTreated = ref(true)
  /** The revision that the desk is compared with on the time line, and what was changed since. */
  const compared = shallowRef<{ id: string; name: string; found: Difference[] } | null>(null)

  const lecture = computed(() => parts.value?.lecture ?? null)
  const takes = computed(() => parts.value?.takes ?? [])
  const recording = computed(() => parts.value?.recording ?? null)
  const recordingIs = computed(() => recordingState(takes.value))
  const edit = computed(() => parts.value && documentOf(parts.value, 'edit'))
  /** What is said, in the language that is spoken: the first track. */
  const spoken = computed(() => parts.value && documentOf(parts.value, 'captions'))
  /** All caption tracks, the spoken language's first. */
  const tracks = computed(() => (parts.value ? documentsOf(parts.value, 'captions') : []))
  // One that was deleted in another tab is open no more.
  const openTrack = computed(() => (tracks.value.some((t) => t.name === track.value) ? track.value : 'captions'))
  /** All sets of questions, the one that was begun first before the others. */
  const sets = computed(() => (parts.value ? documentsOf(parts.value, 'questions') : []))
  const openSet = computed(() =>
    sets.value.some((s) => s.name === set.value) ? set.value : (sets.value[0]?.name ?? 'questions'),
  )
  /** What is on the desk of those that there may be several of: the caption track and the set of questions that are open. */
  const nameOf = <K extends Kind>(kind: K): DocumentName<K> =>
    ((({ captions: openTrack.value, questions: openSet.value }) as Partial<Record<Kind, DocumentName>>)[kind] ??
      kind) as DocumentName<K>
  const captions = computed(() => tracks.value.find((t) => t.name === openTrack.value)?.document ?? null)
  const questions = computed(() => sets.value.find((s) => s.name === openSet.value)?.document ?? null)
  const chapters = computed(() => parts.value && documentOf(parts.value, 'chapters'))
  const links = computed(() => parts.value && documentOf(parts.value, 'links'))
  /** What the map is made of; whatever else is changed in the edit leaves it as it is. */
  let mapped: { edit: EditDocument; map: TimeMap } | null = null
  const map = computed(() => {
    const now = edit.value
    if (!now) return emptyMap
    const same =
      mapped?.edit.removed === now.removed &&
      mapped.edit.inserts === now.inserts &&
      mapped.edit.duration === now.duration &&
      mapped.edit.frameRate === now.frameRate
    if (!mapped || !same) mapped = { edit: now, map: editTimeMap(now) }
    return mapped.map
  })
  const lostCheckpoints = computed(
    () => projectInstants(map.value, questions.value?.checkpoints ?? [], (c) => c.at).lost,
  )

  /** The instant of the recording at the playhead; inside what is put in, the one that it stands at. */
  const recordedTime = computed(() => peek.value ?? toRecorded(map.value, time.value))

  /** An instant of the recording as it is read on the desk: in the time that students see; of one that was taken out, the seam's. */
  const sayTime = (at: number, decimals = 0) => formatTimecode(toResult(map.value, recorded(at)).at, decimals)

  watch(
    map,
    (now, before) => {
      if (peek.value === null) {
        time.value = carryOver(before, now, time.value)
        return
      }
      const where = toResult(now, peek.value)
      time.value = where.at
      if (where.kind === 'kept') peek.value = null
    },
    { flush: 'sync' },
  )

  async function open(lectureId: string): Promise<void> {
    await flush()
    const found = await loadCheckedParts(lectureId)
    parts.value = found
    course.value = found ? ((await db.courses.get(found.lecture.courseId)) ?? null) : null
    time.value = result(0)
    peek.value = null
    playing.value = false
    selection.value = null
    activeCheckpoint.value = null
    activeCue.value = null
    compared.value = null
    track.value = 'captions'
    set.value = 'questions'
    hearsTreated.value = true
    problem.value = ''
  }

  /**
   * Takes over what a job or another tab changed in the database meanwhile; the playhead stays, and what is changed here
   * while reading wins.
   */
  async function refresh(): Promise<void> {
    for (;;) {
      await flush()
      const before = parts.value
      if (!before) return
      const found = await loadParts(before.lecture.id)
      // What was changed here meanwhile may not be in what was read.
      if (parts.value !== before || pending || stored < changes) continue
      parts.value = found && unchanged(before, found)
      return
    }
  }

  /** Changes go to the database one after the other, in the order in which they were made. */
  let writes: Promise<unknown> = Promise.resolve()
  /** How many changes were handed over to be stored, and how many are. */
  let changes = 0
  let stored = 0
  /** What is being typed, until it rests. */
  let pending: Pending | null = null
  let resting: ReturnType<typeof setTimeout> | undefined

  function write({ lectureId, name, before, next, doing }: Pending): Promise<void> {
    changes++
    const done = writes.then(async () => {
      try {
        const document = await storeDocument(lectureId, name, before, next, doing)
        // What is stored may hold more, as another tab may have changed it too.
        if (lecture.value?.id === lectureId && named(name) === next && !equal(document, next)) show(name, document)
      } finally {
        stored++
      }
    })
    writes = done.catch(() => undefined)
    return done
  }

  /** Stores what is being typed now rather than at rest. */
  async function flush(): Promise<void> {
    clearTimeout(resting)
    const last = pending
    pending = null
    if (last) await write(last)
    await writes
  }

  const rowOf = (name: DocumentName) =>
    parts.value?.rows.find((r) => r.id === documentId(parts.value?.lecture.id ?? '', name)) ?? null
  function named<K extends Kind>(name: DocumentName<K>): Documents[K] | null {
    const found = rowOf(name)
    return found && !found.unreadable ? (found.document as Documents[K]) : null
  }

  /** Shows a document as it is now. */
  function show<K extends Kind>(name: DocumentName<K>, document: Documents[K]): void {
    if (!parts.value) return
    const { lecture: of, rows } = parts.value
    const known = rowOf(name)
    const row = known ? { ...known, document } : newRow(of.id, name, document)
    parts.value = { ...parts.value, rows: known ? rows.map((r) => (r === known ? row : r)) : [...rows, row] }
  }

  /**
   * Changes a document: shown at once, and stored; while something is being typed (`doing.field`), at rest.
   * @param next made of the document as it is now
   */
  async function changeNamed<K extends Kind>(name: DocumentName<K>, next: Documents[K], doing: Doing): Promise<void> {
    const id = lecture.value?.id
    if (!id) return
    const before = named(name)
    show(name, next)
    if (pending && (pending.name !== name || pending.doing.field !== doing.field)) void flush().catch(report)
    if (doing.field === undefined) return write({ lectureId: id, name, before, next, doing })
    pending = { lectureId: id, name, before: pending ? pending.before : before, next, doing }
    clearTimeout(resting)
    resting = setTimeout(() => void flush().catch(report), REST)
  }

  /** Changes what is on the desk of a kind. */
  const change = <K extends Kind>(kind: K, next: Documents[K], doing: Doing): Promise<void> =>
    changeNamed(nameOf(kind), next, doing)

  const report = (error: unknown) => {
    problem.value = errorMessage(error)
  }

  /** Goes to a point of a document's history. */
  async function goTo(kind: Kind, to: (applied: number) => number): Promise<void> {
    await flush()
    const id = lecture.value?.id
    if (!id) return
    await goToStep(id, nameOf(kind), to)
    await refresh()
  }

  /** Undoes, or does again, what was done last to any of some documents. */
  async function travelIn(of: readonly Kind[], direction: 'undo' | 'redo'): Promise<void> {
    await flush()
    const id = lecture.value?.id
    if (!id) return
    await travel(id, of.map(nameOf), direction)
    await refresh()
  }

  /** Does an edit; what does not fit is said in `problem` and changes nothing. */
  async function changeEdit(
    next: (edit: EditDocument) => EditDocument,
    says: string,
    field?: string,
  ): Promise<boolean> {
    if (!edit.value) return false
    try {
      problem.value = ''
      await change('edit', next(edit.value), { says, ...(field && { field }) })
      return true
    } catch (error) {
      if (!(error instanceof InvalidEdit)) throw error
      problem.value = error.message
      return false
    }
  }
  /** @param field what is being changed bit by bit, when something is */
  const command = (what: EditCommand, field?: string) =>
    changeEdit((e) => apply(e, what), describeCommand(what, map.value), field)

  const remove = (from: number, to: number, reason?: 'trim') =>
    command({ do: 'remove', id: newId(), from: recorded(from), to: recorded(to), ...(reason && { reason }) })

  /** Takes several stretches out, as one step. */
  const removeRanges = (ranges: readonly RecordedRange[], says: string) =>
    changeEdit((e) => removeAll(e, ranges, newId), says)
  /** Has several stretches be seen and heard again, whichever cuts they lie in, as one step. */
  const revealRanges = (ranges: readonly RecordedRange[], says: string) =>
    changeEdit((e) => reveal(e, ranges, newId), says)

  async function removeSelection(): Promise<void> {
    const range = selection.value
    if (!range) return
    selection.value = null
    await remove(range.from, range.to)
  }

  /** Takes a stretch off an end; one that was taken off there before is made longer. */
  async function trim(end: 'start' | 'end', at: RecordedTime): Promise<void> {
    const whole = map.value.duration
    const cut = edit.value?.removed.find((r) => r.reason === 'trim' && (end === 'start' ? r.from <= 0 : r.to >= whole))
    const edge = end === 'start' ? 'to' : 'from'
    if (cut) await command({ do: 'move-edge', id: cut.id, edge, at })
    else await (end === 'start' ? remove(0, at, 'trim') : remove(at, whole, 'trim'))
  }

  /** The cuts that a seam is made of. */
  const cutsOf = (seam: RecordedRange) => (edit.value ? cutsIn(edit.value, seam) : [])

  /** Puts a seam back; a pause in it stays folded until it is all there is. */
  async function putBack(seam: RecordedRange): Promise<void> {
    const back = restoring(cutsOf(seam))
    if (back) await command(back)
  }

  const changeCaptions = (track: CaptionTrack, doing: Doing): Promise<void> => change('captions', track, doing)

  const changeQuestions = (set: QuestionSet, doing: Doing): Promise<void> =>
    change('questions', { ...set, checkpoints: [...set.checkpoints].sort(byCheckpoint) }, doing)

  async function addCheckpoint(at: RecordedTime, kind?: QuestionKindName): Promise<void> {
    const set = questions.value ?? newQuestionSet(lecture.value?.title ?? '')
    const checkpoint = newCheckpoint(at, newId, kind)
    activeCheckpoint.value = checkpoint.id
    await changeQuestions(
      { ...set, checkpoints: [...set.checkpoints, checkpoint] },
      { says: `Added a question at ${sayTime(at, 1)}` },
    )
  }

  /** @param field what is being typed into, when something is */
  async function changeCheckpoint(next: Checkpoint, says: string, field?: string): Promise<void> {
    const set = questions.value
    if (!set) return
    const checkpoints = set.checkpoints.map((c) => (c.id === next.id ? next : c))
    await changeQuestions({ ...set, checkpoints }, { says, ...(field && { field: `${next.id} ${field}` }) })
  }

  async function removeCheckpoint(id: string): Promise<void> {
    const set = questions.value
    if (activeCheckpoint.value === id) activeCheckpoint.value = null
    if (set)
      await changeQuestions(
        { ...set, checkpoints: set.checkpoints.filter((c) => c.id !== id) },
        { says: 'Deleted a question' },
      )
  }

  const row = (kind: Kind) => rowOf(nameOf(kind))

  async function decideConflict(kind: Kind, conflict: Conflict, kept: unknown): Promise<void> {
    const id = lecture.value?.id
    if (!id) return
    await flush()
    await decide(id, nameOf(kind), conflict, kept)
    await refresh()
  }

  /** Changes a lecture's particulars. */
  async function describe(changes: Partial<Particulars>): Promise<void> {
    if (!lecture.value || !parts.value) return
    parts.value = { ...parts.value, lecture: { ...lecture.value, ...changes } }
    await describeLecture(lecture.value, changes)
    if (changes.courseId !== undefined) course.value = (await db.courses.get(changes.courseId)) ?? null
  }

  return {
    parts,
    course,
    problem,
    time,
    peek,
    recordedTime,
    sayTime,
    playing,
    selection,
    activeCheckpoint,
    activeCue,
    tab,
    compared,
    hearsTreated,
    lecture,
    takes,
    recording,
    recordingIs,
    edit,
    track: computed({
      get: () => openTrack.value,
      set: (name) => {
        track.value = name
      },
    }),
    tracks,
    set: computed({
      get: () => openSet.value,
      set: (name) => {
        if (name === openSet.value) return
        set.value = name
        activeCheckpoint.value = null
      },
    }),
    sets,
    spoken,
    nameOf,
    captions,
    questions,
    chapters,
    links,
    map,
    lostCheckpoints,
    open,
    flush,
    refresh,
    command,
    remove,
    removeRanges,
    revealRanges,
    removeSelection,
    trim,
    cutsOf,
    putBack,
    row,
    decide: decideConflict,
    change,
    changeNamed,
    changeEdit,
    undo: (...of: Kind[]) => travelIn(of, 'undo'),
    redo: (...of: Kind[]) => travelIn(of, 'redo'),
    goTo: (kind: Kind, applied: number) => goTo(kind, () => applied),
    changeCaptions,
    changeQuestions,
    addCheckpoint,
    changeCheckpoint,
    removeCheckpoint,
    describe,
  }
})
