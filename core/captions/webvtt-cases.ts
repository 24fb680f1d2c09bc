/**
 * Cases for readers of WebVTT, written from the standard (W3C WebVTT, §4 syntax, §6.1 file parsing, §6.4 cue text
 * parsing). `test/caption-formats.e2e.ts` puts them to a browser's own parser, the tests beside this file to Thaw's.
 */
export interface FileCase {
  name: string
  file: string
  /** What a parser makes of it: start and end, s, and the text as it stands. */
  cues: [from: number, to: number, text: string][]
  /** What Thaw does not take although parsers do, as no writer is allowed to write it: named instead of lost. */
  refused?: number
  /** Where the only cue stands: as Thaw shows it, and as `VTTCue` has it. */
  stands?: { line: 'foot' | 'top'; align: 'left' | 'center' | 'right' }
  id?: string
}

const one = '00:01.000 --> 00:02.000\nhi'
const hi: [number, number, string] = [1, 2, 'hi']
const set = (settings: string): string => `WEBVTT\n\n00:01.000 --> 00:02.000 ${settings}\nhi\n`

export const fileCases: FileCase[] = [
  { name: 'the signature alone', file: 'WEBVTT', cues: [] },
  { name: 'the signature and a line end', file: 'WEBVTT\n', cues: [] },
  { name: 'a cue', file: `WEBVTT\n\n${one}\n`, cues: [hi] },
  { name: 'a cue without a line end behind it', file: `WEBVTT\n\n${one}`, cues: [hi] },
  { name: 'a byte order mark', file: `\ufeffWEBVTT\n\n${one}\n`, cues: [hi] },
  { name: 'text behind the signature', file: `WEBVTT - made by hand\n\n${one}\n`, cues: [hi] },
  { name: 'text behind a tab', file: `WEBVTT\tmade by hand\n\n${one}\n`, cues: [hi] },
  { name: 'lines of a header', file: `WEBVTT\nKind: captions\nLanguage: en\n\n${one}\n`, cues: [hi] },
  { name: 'CRLF', file: `WEBVTT\r\n\r\n${one.replace('\n', '\r\n')}\r\n`, cues: [hi] },
  { name: 'CR alone', file: `WEBVTT\r\r${one.replace('\n', '\r')}\r`, cues: [hi] },
  { name: 'line ends of all kinds', file: `WEBVTT\r\n\n${one.replace('\n', '\r')}\n`, cues: [hi] },
  { name: 'many empty lines', file: `WEBVTT\n\n\n\n${one}\n\n\n`, cues: [hi] },
  { name: 'hours', file: 'WEBVTT\n\n01:00:01.000 --> 01:00:02.500\nhi\n', cues: [[3601, 3602.5, 'hi']] },
  {
    name: 'hours of three digits',
    file: 'WEBVTT\n\n100:00:01.000 --> 100:00:02.000\nhi\n',
    cues: [[360_001, 360_002, 'hi']],
    refused: 1,
  },
  { name: 'hours with one time only', file: 'WEBVTT\n\n59:59.000 --> 01:00:01.000\nhi\n', cues: [[3599, 3601, 'hi']] },
  { name: 'hours of one digit', file: 'WEBVTT\n\n1:00:01.000 --> 1:00:02.000\nhi\n', cues: [[3601, 3602, 'hi']] },
  { name: 'minutes of one digit', file: 'WEBVTT\n\n1:01.000 --> 1:02.000\nhi\n', cues: [] },
  { name: 'sixty seconds', file: 'WEBVTT\n\n00:60.000 --> 01:02.000\nhi\n', cues: [] },
  { name: 'sixty minutes', file: 'WEBVTT\n\n00:60:00.000 --> 01:02:00.000\nhi\n', cues: [] },
  { name: 'two digits behind the point', file: 'WEBVTT\n\n00:01.00 --> 00:02.000\nhi\n', cues: [] },
  { name: 'four digits behind the point', file: 'WEBVTT\n\n00:01.0000 --> 00:02.000\nhi\n', cues: [] },
  { name: 'a comma before the milliseconds', file: 'WEBVTT\n\n00:01,000 --> 00:02,000\nhi\n', cues: [] },
  { name: 'no space around the arrow', file: 'WEBVTT\n\n00:01.000-->00:02.000\nhi\n', cues: [hi], refused: 1 },
  { name: 'tabs around the arrow', file: 'WEBVTT\n\n00:01.000\t-->\t00:02.000\nhi\n', cues: [hi] },
  { name: 'a short arrow', file: 'WEBVTT\n\n00:01.000 -> 00:02.000\nhi\n', cues: [] },
  { name: 'an identifier', file: `WEBVTT\n\nintro\n${one}\n`, cues: [hi], id: 'intro' },
  { name: 'an identifier of many words', file: `WEBVTT\n\n1 - the start\n${one}\n`, cues: [hi], id: '1 - the start' },
  {
    name: 'a cue without text',
    file: 'WEBVTT\n\n00:01.000 --> 00:02.000\n\n00:03.000 --> 00:04.000\nthere\n',
    cues: [
      [1, 2, ''],
      [3, 4, 'there'],
    ],
  },
  { name: 'two lines of text', file: 'WEBVTT\n\n00:01.000 --> 00:02.000\nhi\nthere\n', cues: [[1, 2, 'hi\nthere']] },
  { name: 'white space around text', file: 'WEBVTT\n\n00:01.000 --> 00:02.000\n  hi \n', cues: [[1, 2, '  hi ']] },
  {
    name: 'no empty line between cues',
    file: `WEBVTT\n\n${one}\n00:03.000 --> 00:04.000\nthere\n`,
    cues: [hi, [3, 4, 'there']],
  },
  { name: 'no empty line behind the header', file: `WEBVTT\n${one}\n`, cues: [hi] },
  {
    name: 'cues that lie over one another',
    file: `WEBVTT\n\n00:01.000 --> 00:05.000\na\n\n00:02.000 --> 00:03.000\nb\n`,
    cues: [
      [1, 5, 'a'],
      [2, 3, 'b'],
    ],
  },
  {
    name: 'cues in no order',
    file: `WEBVTT\n\n00:03.000 --> 00:04.000\nb\n\n00:01.000 --> 00:02.000\na\n`,
    cues: [
      [1, 2, 'a'],
      [3, 4, 'b'],
    ],
  },
  {
    name: 'two cues of the same times',
    file: `WEBVTT\n\n${one}\n\n00:01.000 --> 00:02.000\nho\n`,
    cues: [hi, [1, 2, 'ho']],
  },
  {
    name: 'an end before its start',
    file: 'WEBVTT\n\n00:02.000 --> 00:01.000\nhi\n',
    cues: [[2, 1, 'hi']],
    refused: 1,
  },
  { name: 'a note', file: `WEBVTT\n\nNOTE by the helper\n\n${one}\n`, cues: [hi] },
  { name: 'a note of several lines', file: `WEBVTT\n\nNOTE\nseen\nand heard\n\n${one}\n`, cues: [hi] },
  { name: 'a note at the end', file: `WEBVTT\n\n${one}\n\nNOTE the end\n`, cues: [hi] },
  { name: 'a style', file: `WEBVTT\n\nSTYLE\n::cue { color: yellow }\n\n${one}\n`, cues: [hi] },
  { name: 'a region', file: `WEBVTT\n\nREGION\nid:r\nwidth:40%\n\n${one}\n`, cues: [hi] },
  { name: 'a block that is nothing', file: `WEBVTT\n\njust words\n\n${one}\n`, cues: [hi] },
  { name: 'a NUL', file: 'WEBVTT\n\n00:01.000 --> 00:02.000\na\0b\n', cues: [[1, 2, 'a\ufffdb']] },
  {
    name: 'letters of all planes',
    file: 'WEBVTT\n\n00:01.000 --> 00:02.000\nfirn ⛄ 𝕏 שלג\n',
    cues: [[1, 2, 'firn ⛄ 𝕏 שלג']],
  },
  { name: 'line 0', file: set('line:0'), cues: [hi], stands: { line: 'top', align: 'center' } },
  { name: 'line −1', file: set('line:-1'), cues: [hi], stands: { line: 'foot', align: 'center' } },
  { name: 'a line as a share', file: set('line:10%'), cues: [hi], stands: { line: 'top', align: 'center' } },
  {
    name: 'a line as a share, at the foot',
    file: set('line:90%,end'),
    cues: [hi],
    stands: { line: 'foot', align: 'center' },
  },
  { name: 'aligned at the start', file: set('align:start'), cues: [hi], stands: { line: 'foot', align: 'left' } },
  {
    name: 'aligned at the end, at the top',
    file: set('align:end line:1'),
    cues: [hi],
    stands: { line: 'top', align: 'right' },
  },
  {
    name: 'several settings, tabs between',
    file: set('position:50%\tline:0\tsize:80%'),
    cues: [hi],
    stands: { line: 'top', align: 'center' },
  },
  {
    name: 'settings that mean nothing',
    file: set('colour:red line'),
    cues: [hi],
    stands: { line: 'foot', align: 'center' },
  },
]

/** Cue texts and what a reader sees of them. */
export const textCases: { text: string; seen: string }[] = [
  { text: 'plain', seen: 'plain' },
  { text: 'a &amp; b', seen: 'a & b' },
  { text: '&lt;down&gt;', seen: '<down>' },
  { text: 'a&nbsp;b', seen: 'a\u00a0b' },
  { text: 'a&lrm;b&rlm;c', seen: 'a\u200eb\u200fc' },
  { text: '<i>ice</i> melts', seen: 'ice melts' },
  { text: '<b>ice <u>and</u></b> snow', seen: 'ice and snow' },
  { text: '<c.loud.red>ice</c>', seen: 'ice' },
  { text: '<v Ann>Look', seen: 'Look' },
  { text: '<v.loud Ann Lee>Look</v> here', seen: 'Look here' },
  { text: '<lang en-GB>colour</lang>', seen: 'colour' },
  { text: 'one <00:00:01.500>two', seen: 'one two' },
  { text: '<i>never closed', seen: 'never closed' },
  { text: 'never opened</i>', seen: 'never opened' },
  { text: '<b><i>crossed</b></i>', seen: 'crossed' },
  { text: '<blink>unknown</blink>', seen: 'unknown' },
  { text: 'a > b', seen: 'a > b' },
  { text: 'R&D', seen: 'R&D' },
  { text: 'a\nb', seen: 'a\nb' },
  { text: '&#65;&#x42;', seen: 'AB' },
]
