/** Text of questions to and from the documents of the editor, whose lists stand in one another. */
import type { JSONContent } from '@tiptap/core'
import type { RichText, Span, TextLine, WordsLine } from '#core/schema/rich-text'
import { isEmpty } from '#core/text/rich-text'

type Mark = NonNullable<Span['marks']>[number]
const MARKS: readonly Mark[] = ['bold', 'italic', 'subscript', 'superscript', 'code']
const MOST_LEVELS = 3

const spanNode = ({ text, marks = [] }: Span): JSONContent =>
  marks.includes('formula')
    ? { type: 'formula', attrs: { tex: text } }
    : { type: 'text', text, ...(marks.length > 0 && { marks: marks.map((type) => ({ type })) }) }
const paragraph = (spans: readonly Span[]): JSONContent => ({
  type: 'paragraph',
  ...(spans.length > 0 && { content: spans.map(spanNode) }),
})
const isListed = (line: TextLine | undefined): line is WordsLine & { kind: 'bullet' | 'number' } =>
  line?.kind === 'bullet' || line?.kind === 'number'

/** Lines of lists as lists, from `at` on, as far as they stand at least so deep. */
function listNodes(rich: RichText, at: number, level: number): { nodes: JSONContent[]; next: number } {
  const nodes: JSONContent[] = []
  let i = at
  for (;;) {
    const first = rich[i]
    if (!isListed(first) || (first.level ?? 0) < level) return { nodes, next: i }
    const items: JSONContent[] = []
    for (;;) {
      const line = rich[i]
      if (!isListed(line) || line.kind !== first.kind || (line.level ?? 0) < level) break
      const inner = listNodes(rich, i + 1, level + 1)
      items.push({ type: 'listItem', content: [paragraph(line.spans), ...inner.nodes] })
      i = inner.next
    }
    nodes.push({ type: first.kind === 'bullet' ? 'bulletList' : 'orderedList', content: items })
  }
}

export function toDocument(rich: RichText): JSONContent {
  const content: JSONContent[] = []
  for (let i = 0; i < rich.length;) {
    const line = rich[i]
    if (isListed(line)) {
      const { nodes, next } = listNodes(rich, i, 0)
      content.push(...nodes)
      i = next
      continue
    }
    if (line?.kind === 'picture') {
      const { kind: type, ...attrs } = line
      content.push({ type, attrs })
    } else if (line) content.push(paragraph(line.spans))
    i++
  }
  return { type: 'doc', content: content.length > 0 ? content : [{ type: 'paragraph' }] }
}

const marksOf = ({ marks = [] }: JSONContent): Mark[] => MARKS.filter((m) => marks.some(({ type }) => type === m))

/** Neighbours that look alike are one. */
function spansOf({ content = [] }: JSONContent): Span[] {
  const spans: Span[] = []
  for (const node of content) {
    if (node.type === 'formula') {
      const tex = String(node.attrs?.tex ?? '')
      if (tex) spans.push({ text: tex, marks: ['formula'] })
      continue
    }
    const { text } = node
    if (!text) continue
    const marks = marksOf(node)
    const last = spans.at(-1)
    if (last && !last.marks?.includes('formula') && (last.marks ?? []).join() === marks.join()) last.text += text
    else spans.push({ text, ...(marks.length > 0 && { marks }) })
  }
  return spans
}

function linesOf(list: JSONContent, level: number): WordsLine[] {
  const kind = list.type === 'bulletList' ? 'bullet' : 'number'
  return (list.content ?? []).flatMap(({ content = [] }) =>
    content.flatMap((node): WordsLine[] =>
      node.type === 'paragraph'
        ? [{ kind, ...(level > 0 && { level }), spans: spansOf(node) }]
        : linesOf(node, Math.min(MOST_LEVELS, level + 1)),
    ),
  )
}

export function fromDocument(document: JSONContent): RichText {
  const rich = (document.content ?? []).flatMap((node): TextLine[] => {
    if (node.type === 'picture') {
      const { file, description, width, height } = node.attrs ?? {}
      return [{ kind: 'picture', file, description, width, height } as TextLine]
    }
    return node.type === 'paragraph' ? [{ kind: 'paragraph', spans: spansOf(node) }] : linesOf(node, 0)
  })
  return isEmpty(rich) && rich.length <= 1 ? [] : rich
}
