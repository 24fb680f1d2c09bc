import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { newTrack, setState } from '../captions/track'
import { readVtt } from '../captions/vtt'
import { newChapterList } from '../marks/chapters'
import { newLinkList } from '../marks/links'
import { newQuestionSet } from '../questions/set'
import type { LinkCard } from '../schema/marks'
import { PART_SIZE, type PublicationKeys, type PublicationManifest, type PublishedSet } from '../schema/publication'
import type { Checkpoint } from '../schema/questions'
import { InvalidDocument } from '../schema/validate'
import { buildTimeMap } from '../time/time-map'
import { recorded } from '../time/units'
import { checkpoint, publication, setOf } from '../../test/publication'
import { oneRight } from '../../test/questions'
import {
  checkCaptions,
  checkPublication,
  checkSets,
  partCount,
  partSize,
  projectCaptions,
  projectLecture,
  projectSet,
} from './publication'
import { onlySetId, readPlace, readPublished } from './upgrade'

describe('what goes out', () => {
  const none = { chapters: null, links: null }
  const map = buildTimeMap(recorded(20), [{ from: recorded(4), to: recorded(8) }])
  const ask = (id: string, at: number, prompt = 'What?'): Checkpoint => ({
    id: `cp-${id}`,
    at: recorded(at),
    questions: [oneRight(id, { a: 'ice', b: 'snow' }, { prompt, explanation: 'a secret' })],
  })
  const set = {
    ...newQuestionSet('x'),
    checkpoints: [ask('late', 15), ask('gone', 5), ask('early', 2), ask('half', 9, '')],
  }
  const track = newTrack(
    {
      cues: [
        { id: 'c1', from: recorded(9), to: recorded(10), text: 'after' },
        { id: 'c2', from: recorded(5), to: recorded(6), text: 'inside' },
      ],
    },
    'person',
  )

  it('is in result time, without what was removed or is unfinished, and says so', () => {
    const out = projectCaptions(map, [setState(track, 'on')])
    const asked = projectSet(map, { id: 's', publicationId: 'p', questions: set })
    expect(asked.set.checkpoints.map((c) => [c.questions[0]?.id, c.at])).toEqual([
      ['early', 2],
      ['late', 11],
    ])
    expect(readVtt(out.tracks[0]?.text ?? '', () => 'c').cues.map((c) => [c.from, c.text])).toEqual([[5, 'after']])
    expect(asked.lost.removed.map((c) => c.questions[0]?.open.id)).toEqual(['gone'])
    expect(asked.lost.unfinished.map((c) => c.questions[0]?.open.id)).toEqual(['half'])
    expect(out.lost.map((l) => l.cue.id)).toEqual(['c2'])
  })
  it('holds nothing of what those who caption note for each other, and all styles', () => {
    const noted = {
      ...track,
      header: 'made by B.',
      after: ['NOTE done'],
      cues: track.cues.map((c) => ({
        ...c,
        before: ['NOTE ask the lecturer', `STYLE\n::cue(.${c.id}) { color: red }`],
      })),
    }
    const captions = projectCaptions(map, [setState(noted, 'on')]).tracks[0]?.text
    expect(captions).not.toMatch(/NOTE|ask|made by|done/)
    expect(captions).toMatch(/^WEBVTT\n\nSTYLE[^]*\.c1[^]*STYLE[^]*\.c2[^]*-->/)
  })
  it('holds no captions before they are on, and no key among the questions', () => {
    expect(projectCaptions(map, [setState(track, 'checked'), track]).tracks).toEqual([])
    const asked = projectSet(map, { id: 's', publicationId: 'p', questions: set })
    expect(JSON.stringify(asked.set)).not.toContain('a secret')
    expect(asked.keys.keys.map((k) => k.questionId).sort()).toEqual(['early', 'late'])
  })
  it('is a track for each language and role that is on, and of those nothing twice', () => {
    const on = setState(track, 'on')
    const french = { ...on, language: 'fr', role: 'translation' as const }
    const { tracks, lost } = projectCaptions(map, [on, french, { ...french, language: 'de', state: 'checked' }])
    expect(tracks.map((t) => [t.role, t.language])).toEqual([
      ['captions', 'en'],
      ['translation', 'fr'],
    ])
    expect(lost).toHaveLength(2)
    expect(() => checkCaptions(tracks)).not.toThrow()
    expect(() => checkCaptions([...tracks, ...tracks])).toThrow(/captions-en stands twice/)
    expect(() => checkCaptions([{ language: 'en', role: 'captions', text: 'WEBVTT\n\nnonsense' }])).toThrow(/Line 3/)
  })
  it('leads a card to where a chapter begins in the result, and loses one whose chapter is not there', () => {
    const chapters = [
      { id: 'a', at: recorded(0), title: 'A' },
      { id: 'b', at: recorded(10), title: 'B' },
    ]
    const card = (id: string, chapter: string) => ({
      ...{ id, from: recorded(1), to: recorded(3), words: id, target: { chapter }, ink: '#ffffff', ground: '#000000' },
      ...{ box: { x: 0, y: 0, width: 0.2, height: 0.1 }, corner: 0 },
    })
    const out = projectLecture(map, {
      ...none,
      chapters: { ...newChapterList(), chapters },
      links: { ...newLinkList(), links: [card('there', 'b'), card('nowhere', 'z')] },
    })
    expect(out.links.map((l) => [l.id, l.target])).toEqual([['there', { at: 6 }]])
    expect(out.lost.links.map((l) => l.id)).toEqual(['nowhere'])
  })
  it('begins a chapter with the first of it that is kept, and loses one of which nothing is', () => {
    const chapters = [
      { id: 'a', at: recorded(0), title: 'A' },
      { id: 'b', at: recorded(4.5), title: 'B' },
      { id: 'c', at: recorded(7), title: 'C' },
    ]
    const out = projectLecture(map, { ...none, chapters: { ...newChapterList(), chapters } })
    expect(out.chapters.map((c) => [c.id, c.at])).toEqual([
      ['a', 0],
      ['c', 4],
    ])
    expect(out.lost.chapters.map((c) => c.id)).toEqual(['b'])
  })
  it('leads by link cards to where the result has that instant, and loses those that lead to nothing', () => {
    const look = { box: { x: 0, y: 0, width: 0.2, height: 0.1 }, ink: '#ffffff', ground: '#000000', corner: 0 }
    const link = (id: string, from: number, to: number, target: LinkCard['target']): LinkCard => ({
      id,
      from: recorded(from),
      to: recorded(to),
      words: id,
      target,
      ...look,
    })
    const links = [
      link('web', 3, 9, { url: 'https://example.org/' }),
      link('later', 1, 2, { at: recorded(10) }),
      link('nowhere', 1, 2, { at: recorded(5) }),
      link('unseen', 5, 6, { at: recorded(10) }),
    ]
    const out = projectLecture(map, { ...none, links: { ...newLinkList(), links } })
    expect(out.links.map((l) => [l.id, l.from, l.to, l.target])).toEqual([
      ['web', 3, 5, { url: 'https://example.org/' }],
      ['later', 1, 2, { at: 6 }],
    ])
    expect(out.lost.links.map((l) => l.id)).toEqual(['nowhere', 'unseen'])
  })
})

describe('a publication', () => {
  const hash = 'a'.repeat(64)
  const { manifest, sets } = publication('pub', 't', 10, { size: PART_SIZE + 1, parts: [hash, hash] }, [
    checkpoint('cp', 5, 'q'),
  ])
  const [{ set, keys }] = sets
  const film = manifest.files[0]!
  const picture = manifest.layout[0]!

  it('is cut into parts that add up', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 5 * PART_SIZE }), (size) => {
        const sizes = Array.from({ length: partCount(size) }, (_, i) => partSize(size, i))
        expect(sizes.reduce((a, b) => a + b, 0)).toBe(size)
        expect(Math.min(...sizes)).toBeGreaterThan(0)
      }),
    )
  })
  it('that fits together is taken, with as many sets as there are', () => {
    const other = setOf('pub', 'other', [checkpoint('cp2', 6, 'q2')])
    for (const asked of [[], sets, [...sets, other]])
      expect(() => checkPublication({ manifest, captions: [], sets: asked })).not.toThrow()
  })
  const grid = { file: 'stills.jpg', every: 2, columns: 5, width: 160, height: 90 }
  it('with a mark that is there is taken', () => {
    const files: PublicationManifest['files'] = [film, { ...film, name: 'mark.png', type: 'image/png' }]
    const watermark = { file: 'mark.png', box: { x: 0, y: 0, width: 0.1, height: 0.1 }, opacity: 0.6 }
    expect(() => checkPublication({ manifest: { ...manifest, files, watermark }, captions: [], sets })).not.toThrow()
    expect(() => checkPublication({ manifest: { ...manifest, files }, captions: [], sets })).toThrow(
      /nothing says what/,
    )
    expect(() => checkPublication({ manifest: { ...manifest, watermark }, captions: [], sets })).toThrow(/mark\.png/)
  })
  it('with stills that are there is taken', () => {
    const files: PublicationManifest['files'] = [film, { ...film, name: 'stills.jpg', type: 'image/jpeg' }]
    expect(() => checkPublication({ manifest: { ...manifest, files, stills: grid }, captions: [], sets })).not.toThrow()
  })
  it.each<[string, Partial<PublicationManifest>, Partial<PublishedSet>, Partial<PublicationKeys>]>([
    ['too few parts', { files: [{ ...film, parts: [hash] }] }, {}, {}],
    ['no film', { files: [{ ...film, name: 'captions.vtt', type: 'text/vtt' }] }, {}, {}],
    ['a film that nothing shows', { files: [film, { ...film, name: 'camera.mp4' }] }, {}, {}],
    ['a film that stands for two pictures', { feeds: [...manifest.feeds, { ...manifest.feeds[0]!, id: 'b' }] }, {}, {}],
    ['the wrong kind', { files: [{ ...film, type: 'text/vtt' }] }, {}, {}],
    ['stills that are not there', { stills: grid }, {}, {}],
    ['stills that are a film', { files: [{ ...film, name: 'stills.jpg' }], stills: grid }, {}, {}],
    ['a picture that nothing shows', { files: [film, { ...film, name: 'stills.jpg', type: 'image/jpeg' }] }, {}, {}],
    ['a picture that is not there', { layout: [{ at: 0, slots: [{ ...picture.slots[0]!, feed: 'x' }] }] }, {}, {}],
    ['arrangements out of order', { layout: [picture, picture] }, {}, {}],
    ['a chapter behind the end', { chapters: [{ id: 'c', at: 11, title: 'c' }] }, {}, {}],
    ['questions of another', {}, { publicationId: 'other' }, {}],
    ['a missing key', {}, {}, { keys: [] }],
    ['a key without a question', {}, {}, { keys: [...keys.keys, oneRight('z').key] }],
    ['a key that names no choice', {}, {}, { keys: [oneRight('q', undefined, { right: 'z' }).key] }],
    ['keys of another', {}, {}, { publicationId: 'other' }],
    ['a question behind the end', { duration: 3 }, {}, {}],
  ])('with %s is refused', (_, m, q, k) => {
    const changed = { set: { ...set, ...q }, keys: { ...keys, ...k } }
    expect(() => checkPublication({ manifest: { ...manifest, ...m }, captions: [], sets: [changed] })).toThrow(
      InvalidDocument,
    )
  })
  it.each([
    ['the same set twice', set.id, 'q2'],
    ['a question in two sets', 'other', 'q'],
  ])('with %s is refused', (_, id, question) => {
    const other = setOf('pub', id, [checkpoint('cp2', 6, question)])
    expect(() => checkPublication({ manifest, captions: [], sets: [...sets, other] })).toThrow(/twice/)
    expect(() => checkSets(manifest, [...sets, other])).toThrow(/twice/)
  })
})

describe('what earlier versions published', () => {
  const { manifest, sets } = publication('pub', 't', 10, { size: 5, parts: ['a'.repeat(64)] }, [
    checkpoint('cp', 5, 'q'),
  ])
  const [{ set, keys }] = sets
  const now = { ...set, id: onlySetId('pub'), title: 't' }
  const { feeds: _f, layout: _l, captions: _c, chapters: _h, links: _i, kept: _k, ...same } = manifest
  const old = {
    ...same,
    version: 1,
    files: [
      { ...manifest.files[0]!, name: 'media.mp4' },
      { ...manifest.files[0]!, name: 'captions.vtt', type: 'text/vtt' },
    ],
    checkpoints: set.checkpoints,
  }
  it('up to version 1 is one of one picture, asks what it asked, and fits together', () => {
    const read = readPublished(old)
    expect(read.set).toEqual(now)
    expect(read.manifest.captions).toEqual([{ language: 'en', file: 'captions.vtt' }])
    expect(() =>
      checkPublication({ manifest: read.manifest, captions: [], sets: [{ set: read.set, keys }] }),
    ).not.toThrow()
    expect(readPublished({ ...old, width: 0, height: 0 }).manifest.layout).toEqual([])
  })
  it('as its only set asks what it asked, and what is damaged is named', () => {
    const { title: _t, policy: _p, id: _i, ...before } = set
    expect(readPublished(manifest, { ...before, version: 1 })).toEqual({ manifest, set: now })
    expect(readPublished(manifest, set)).toEqual({ manifest, set })
    expect(() => readPublished({ ...old, files: [] })).toThrow(/files/)
    expect(() => readPublished(manifest, { version: 1 })).toThrow(/version 1/)
  })
  it('at its only place is asked there still', () => {
    const place = { id: 'pl', publicationId: 'pub', courseId: 'c', week: 1, from: same.madeAt, until: null }
    const read = readPlace(place)
    expect(read).toEqual({ ...place, sets: [now.id], options: { download: false } })
    expect(readPlace(read)).toEqual(read)
    expect(() => readPlace({ ...place, week: 0 })).toThrow(/week/)
  })
})
