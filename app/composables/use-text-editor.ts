/** The editor of a text with emphasis, lists, formulas and a picture: what it knows, and what may come into it. */
import { Extension, mergeAttributes, Node, type Editor } from '@tiptap/core'
import { Bold } from '@tiptap/extension-bold'
import { Code } from '@tiptap/extension-code'
import { Document } from '@tiptap/extension-document'
import { Italic } from '@tiptap/extension-italic'
import { BulletList, ListItem, OrderedList } from '@tiptap/extension-list'
import { Paragraph } from '@tiptap/extension-paragraph'
import { Subscript } from '@tiptap/extension-subscript'
import { Superscript } from '@tiptap/extension-superscript'
import { Text } from '@tiptap/extension-text'
import { CharacterCount, UndoRedo } from '@tiptap/extensions'
import { useEditor } from '@tiptap/vue-3'
import DOMPurify from 'dompurify'
import equal from 'fast-deep-equal'
import type { RichText } from '#core/schema/rich-text'
import { fromDocument, toDocument } from '~/utils/rich-document'

/** Tab leaves the text, as everywhere; a line of a list goes deeper and back with other keys. */
const Item = ListItem.extend({
  addKeyboardShortcuts() {
    return {
      Enter: () => this.editor.commands.splitListItem(this.name),
      'Mod-]': () => this.editor.commands.sinkListItem(this.name),
      'Mod-[': () => this.editor.commands.liftListItem(this.name),
    }
  },
})

const formulaNode = Node.create({
  name: 'formula',
  group: 'inline',
  inline: true,
  atom: true,
  addAttributes: () => ({ tex: { default: '' } }),
  parseHTML: () => [{ tag: 'span[data-tex]', getAttrs: (e) => ({ tex: e.dataset.tex }) }],
  renderHTML: ({ node, HTMLAttributes }) => [
    'span',
    mergeAttributes(HTMLAttributes, { 'data-tex': node.attrs.tex as string }),
    node.attrs.tex as string,
  ],
  addNodeView:
    () =>
    ({ node }) => {
      const dom = document.createElement('span')
      dom.className = 'formula'
      dom.textContent = String(node.attrs.tex)
      void import('#player/katex').then(({ drawFormula }) => drawFormula(String(node.attrs.tex), dom, false))
      return { dom }
    },
})

const pictureNode = (urlOf: (file: string) => string) =>
  Node.create({
    name: 'picture',
    group: 'block',
    atom: true,
    addAttributes: () => ({
      file: { default: '' },
      description: { default: '' },
      width: { default: 1 },
      height: { default: 1 },
    }),
    // One that is pasted is brought in as a file; an address is none.
    renderHTML: ({ node }) => ['img', { alt: node.attrs.description as string }],
    addNodeView:
      () =>
      ({ node }) => {
        const dom = document.createElement('img')
        let shown = node
        const draw = () => {
          dom.src = urlOf(String(shown.attrs.file))
          dom.alt = String(shown.attrs.description)
        }
        const stop = watchEffect(draw)
        return {
          dom,
          update(next) {
            if (next.type !== shown.type || next.attrs.file !== shown.attrs.file) return false
            shown = next
            draw()
            return true
          },
          destroy: () => stop(),
        }
      },
  })

export interface TextEditorOptions {
  text: () => RichText
  label: () => string
  maxlength: number
  /** Whether it is written into at once. */
  autofocus: boolean
  pictureUrl: (file: string) => string
  onChange(text: RichText): void
  /** A picture that was pasted or dropped. */
  onPicture(file: File): void
  onFocus(editor: Editor): void
  /** The keyboard is to go to the tools. */
  onTools(): void
}

/** Follows `text` when that is changed elsewhere. */
export function useTextEditor(options: TextEditorOptions) {
  const { text, label, maxlength, autofocus, pictureUrl, onChange, onPicture, onFocus, onTools } = options
  let known = text()
  const pictureIn = (list: DataTransfer | null | undefined): File | undefined =>
    [...(list?.files ?? [])].find((f) => f.type.startsWith('image/'))
  const editor = useEditor({
    content: toDocument(known),
    extensions: [
      ...[Document, Paragraph, Text, Bold, Italic, Code, Subscript, Superscript, UndoRedo],
      ...[BulletList, OrderedList, Item, formulaNode, pictureNode(pictureUrl)],
      CharacterCount.configure({ limit: maxlength }),
      Extension.create({
        addKeyboardShortcuts: () => ({
          'Alt-F10': () => {
            onTools()
            return true
          },
        }),
      }),
    ],
    onCreate({ editor: created }) {
      if (autofocus) created.view.focus()
    },
    onFocus: ({ editor: focused }) => onFocus(focused),
    editorProps: {
      attributes: () => ({ role: 'textbox', 'aria-multiline': 'true', 'aria-label': label() }),
      transformPastedHTML: (html) => DOMPurify.sanitize(html),
      handlePaste: (_, event) => bring(pictureIn(event.clipboardData)),
      handleDrop: (_, event) => bring(pictureIn(event.dataTransfer)),
    },
    onUpdate({ editor: now }) {
      const next = fromDocument(now.getJSON())
      if (equal(next, known)) return
      known = next
      onChange(next)
    },
  })
  function bring(file: File | undefined): boolean {
    if (file) onPicture(file)
    return file !== undefined
  }
  // What it is called stands on the element, which is drawn anew only when something is done.
  watch(label, () => editor.value?.setOptions({}), { flush: 'post' })
  watch(text, (now) => {
    if (equal(now, known)) return
    known = now
    editor.value?.commands.setContent(toDocument(now), { emitUpdate: false })
  })
  return editor
}

/**
 * Puts a formula where the cursor is, or in the place of the chosen one; an empty one takes that away. The text has the
 * keyboard at once: Tiptap's own `focus` waits for a frame, and what is typed before it is lost.
 */
export function putFormula(editor: Editor, tex: string): void {
  editor.view.focus()
  const chain = editor.chain()
  if (tex.trim() === '') chain.deleteSelection().run()
  else chain.insertContent({ type: 'formula', attrs: { tex: tex.trim() } }).run()
}
