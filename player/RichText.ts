/** Draws text with emphasis, lists, formulas and pictures, line by line: nothing of it is ever read as HTML. */
import { defineComponent, h, inject, onMounted, ref, watch, type FunctionalComponent, type VNodeChild } from 'vue'
import { pictureUrlKey } from './picture-url'
import type { PictureLine, RichText as Rich, Span, TextLine, WordsLine } from '#core/schema/rich-text'

/** A formula. What draws it is fetched when there is one; until then it is shown as it is written. */
const Formula = defineComponent({
  props: { tex: { type: String, required: true }, block: { type: Boolean, default: false } },
  setup(props) {
    const element = ref<HTMLElement | null>(null)
    async function draw(): Promise<void> {
      const { drawFormula } = await import('./katex')
      if (element.value) drawFormula(props.tex, element.value, props.block)
    }
    onMounted(draw)
    watch(() => [props.tex, props.block], draw)
    return () => h('span', { ref: element, class: { formula: true, block: props.block } }, props.tex)
  },
})

const tags = { bold: 'strong', italic: 'em', subscript: 'sub', superscript: 'sup', code: 'code' } as const

function spanOf({ text, marks = [] }: Span, block = false): VNodeChild {
  if (marks.includes('formula')) return h(Formula, { key: text, tex: text, block })
  return marks.reduce<VNodeChild>((inner, mark) => (mark === 'formula' ? inner : h(tags[mark], [inner])), text)
}
/** A formula that is alone on its line stands by itself. */
const spansOf = ({ spans }: WordsLine): VNodeChild[] =>
  spans.length > 0 ? spans.map((span) => spanOf(span, spans.length === 1)) : [h('br')]

const isListed = (line: TextLine | undefined): line is WordsLine & { kind: 'bullet' | 'number' } =>
  line?.kind === 'bullet' || line?.kind === 'number'

/** Lines of lists as the lists that they are, from line `at` on, as far as they stand at least so deep. */
function listsOf(lines: Rich, at: number, level: number): { nodes: VNodeChild[]; next: number } {
  const nodes: VNodeChild[] = []
  let i = at
  for (;;) {
    const first = lines[i]
    if (!isListed(first) || (first.level ?? 0) < level) break
    const items: VNodeChild[] = []
    for (;;) {
      const line = lines[i]
      if (!isListed(line) || line.kind !== first.kind || (line.level ?? 0) < level) break
      const inner = listsOf(lines, i + 1, level + 1)
      items.push(h('li', [...spansOf(line), ...inner.nodes]))
      i = inner.next
    }
    nodes.push(h(first.kind === 'bullet' ? 'ul' : 'ol', items))
  }
  return { nodes, next: i }
}

const Picture: FunctionalComponent<{ line: PictureLine }> = ({ line: { file, description, width, height } }) =>
  h('img', { src: inject(pictureUrlKey, () => '')(file), alt: description, width, height })
Picture.props = ['line']

/** @param props.flat whether its only line is drawn without a paragraph, as beside something else */
export const RichText: FunctionalComponent<{ text: Rich; flat?: boolean }> = ({ text, flat }) => {
  const [first, ...more] = text
  if (flat && first?.kind === 'paragraph' && more.length === 0)
    return h(
      'span',
      first.spans.map((span) => spanOf(span)),
    )
  const nodes: VNodeChild[] = []
  for (let i = 0; i < text.length;) {
    const line = text[i]
    if (isListed(line)) {
      const lists = listsOf(text, i, 0)
      nodes.push(...lists.nodes)
      i = lists.next
      continue
    }
    if (line?.kind === 'picture') nodes.push(h(Picture, { key: line.file, line }))
    else if (line) nodes.push(h('p', spansOf(line)))
    i++
  }
  return h('div', { class: 'rich' }, nodes)
}
RichText.props = ['text', 'flat']
