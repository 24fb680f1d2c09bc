/** Keys of a caption that is open, so that hands may stay where they type. */

/** What a key does to the caption that is open, or from there. */
export type CaptionAct =
  | 'confirm'
  | 'next'
  | 'previous'
  | 'doubt'
  | 'problem'
  | 'mend'
  | 'join'
  | 'split'
  | 'italic'
  | 'speaker'
  | 'play'
  | 'back'
  | 'loop'
  | 'everywhere'
  | 'keep-word'
  | 'slower'
  | 'faster'
  | 'start-here'
  | 'end-here'
  | 'start-earlier'
  | 'start-later'
  | 'end-earlier'
  | 'end-later'

export interface CaptionKey {
  /** As a person is told of it. */
  shown: string
  says: string
  /** As tinykeys names them. By the place of a key where Alt would make another letter of it. */
  press: Record<string, CaptionAct>
}

export const captionKeys: readonly CaptionKey[] = [
  { shown: 'Enter', says: 'Confirm the caption, and on to the next', press: { Enter: 'confirm' } },
  // What the field does by itself.
  { shown: 'Shift Enter', says: 'Break the line', press: {} },
  { shown: 'Ctrl Enter', says: 'Split at the cursor', press: { '$mod+Enter': 'split' } },
  { shown: 'Alt J', says: 'Join with the next', press: { 'Alt+KeyJ': 'join' } },
  {
    shown: 'Alt ↑ ↓',
    says: 'To the caption before or after',
    press: { 'Alt+ArrowUp': 'previous', 'Alt+ArrowDown': 'next' },
  },
  { shown: 'Alt Enter', says: 'To the next doubtful words', press: { 'Alt+Enter': 'doubt' } },
  { shown: 'Alt N', says: 'To the next problem', press: { 'Alt+KeyN': 'problem' } },
  { shown: 'Alt M', says: 'Mend the problem of the caption', press: { 'Alt+KeyM': 'mend' } },
  { shown: 'Alt P', says: 'Play or pause', press: { 'Alt+KeyP': 'play' } },
  { shown: 'Alt B', says: 'Two seconds back', press: { 'Alt+KeyB': 'back' } },
  { shown: 'Alt L', says: 'Play the caption again and again', press: { 'Alt+KeyL': 'loop' } },
  { shown: 'Alt − +', says: 'Slower or faster', press: { 'Alt+Minus': 'slower', 'Alt+Equal': 'faster' } },
  {
    shown: 'Alt [ ]',
    says: 'Starts or ends at the playhead',
    press: { 'Alt+BracketLeft': 'start-here', 'Alt+BracketRight': 'end-here' },
  },
  {
    shown: 'Alt , .',
    says: 'Starts a frame earlier or later; with Shift, ends',
    press: {
      'Alt+Comma': 'start-earlier',
      'Alt+Period': 'start-later',
      'Alt+Shift+Comma': 'end-earlier',
      'Alt+Shift+Period': 'end-later',
    },
  },
  {
    shown: 'Alt R',
    says: 'See where else a word that was corrected is wrong, and replace it',
    press: { 'Alt+KeyR': 'everywhere' },
  },
  { shown: 'Alt K', says: 'Keep a word that was corrected in the word list', press: { 'Alt+KeyK': 'keep-word' } },
  { shown: 'Alt S', says: 'Who speaks', press: { 'Alt+KeyS': 'speaker' } },
  { shown: 'Ctrl I', says: 'Italics', press: { '$mod+i': 'italic' } },
]
