/** Draws text with emphasis and lists, line by line: nothing of it is ever read as HTML. */
import { h, type FunctionalComponent, type VNodeChild } from 'vue'
import type { RichText as Rich, Span, TextLine } from '#core/schema/rich-text'

const tags = { bold: 'strong', italic: 'em', subscript: 'sub', superscript: 'sup', code: 'code' } as const

const spanOf = ({ text, marks = [] }: Span): VNodeChild =>
  marks.reduce<VNodeChild>((inner, mark) => h(tags[mark], [inner]), text)
const spansOf = ({ spans }: TextLine): VNodeChild[] => (spans.length > 0 ? spans.map(spanOf) : [h('br')])

/** Lines of lists as the lists that they are, from line `at` on, as far as they stand at least so deep. */
function listsOf(lines: Rich, at: number, level: number): { nodes: VNodeChild[]; next: number } {
  const nodes: VNodeChild[] = []
  let i = at
  while (i < lines.length) {
    const { kind, level: own = 0 } = lines[i] as TextLine
    if (kind === 'paragraph' || own < level) break
    const items: VNodeChild[] = []
    while (i < lines.length) {
      const line = lines[i] as TextLine
      if (line.kind !== kind || (line.level ?? 0) < level) break
      const inner = listsOf(lines, i + 1, level + 1)
      items.push(h('li', [...spansOf(line), ...inner.nodes]))
      i = inner.next
    }
    nodes.push(h(kind === 'bullet' ? 'ul' : 'ol', items))
  }
  return { nodes, next: i }
}

/** @param props.flat whether its only line is drawn without a paragraph, as beside something else */
export const RichText: FunctionalComponent<{ text: Rich; flat?: boolean }> = ({ text, flat }) => {
  const [first, ...more] = text
  if (flat && first?.kind === 'paragraph' && more.length === 0) return h('span', spansOf(first))
  const nodes: VNodeChild[] = []
  for (let i = 0; i < text.length;) {
    const line = text[i] as TextLine
    if (line.kind === 'paragraph') {
      nodes.push(h('p', spansOf(line)))
      i++
    } else {
      const lists = listsOf(text, i, 0)
      nodes.push(...lists.nodes)
      i = lists.next
    }
  }
  return h('div', { class: 'rich' }, nodes)
}
RichText.props = ['text', 'flat']
