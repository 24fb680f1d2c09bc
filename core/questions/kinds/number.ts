/** A number, right within a tolerance, in one of several units. */
import { Type, type Static } from '@sinclair/typebox'
import { closed, Line } from '../../schema/parts'
import { keyParts, openParts, tallyBy, type QuestionKind } from './kind'

const kind = Type.Literal('number')
const Value = Type.Number({ minimum: -1e15, maximum: 1e15 })
const open = Type.Object(
  {
    ...{ ...openParts, kind },
    /** None; one, which is written beside the field; or several, of which the student chooses. */
    units: Type.Array(Line(20), { maxItems: 8 }),
  },
  closed,
)
const key = Type.Object(
  {
    ...{ ...keyParts, kind, value: Value },
    /** How far from it is still right, in its unit, or in per cent of it. */
    tolerance: Type.Number({ minimum: 0, maximum: 1e15 }),
    toleranceIn: Type.Union([Type.Literal('unit'), Type.Literal('percent')]),
    /** How much of the first unit one of each unit is, in their order: 1 for the first, 0 where a unit is wrong. */
    factors: Type.Array(Type.Number({ minimum: 0, maximum: 1e12 }), { maxItems: 8 }),
  },
  closed,
)
const answer = Type.Object(
  {
    ...{ kind, value: Value },
    /** Index among the question's units; 0 where there is no choice. */
    unit: Type.Integer({ minimum: 0, maximum: 7 }),
  },
  closed,
)
export const numberSchemas = { open, key, answer }
type Open = Static<typeof open>
type Key = Static<typeof key>
type Answer = Static<typeof answer>

/** A decimal fraction is not what it reads: so much of a number it may be off, and still be the tolerance. */
const ROUNDING = 1e-9

/**
 * Reads a number as people write it: a comma or a full stop before the decimals, spaces between thousands, ×10^3 or e3.
 * @returns null for what is none
 */
export function readNumber(text: string): number | null {
  const plain = text
    .trim()
    .replace(/[−–]/g, '-')
    .replace(/(?<=\d)[\s\u00a0\u202f'’](?=\d{3})/g, '')
    .replace(/\s*[×x*·]\s*10\s*\^?\s*([-+]?\d+)$/i, 'e$1')
    .replace(/^([-+]?\d*),(\d+(e[-+]?\d+)?)$/i, '$1.$2')
  return /^[-+]?(\d+\.?\d*|\.\d+)(e[-+]?\d+)?$/i.test(plain) ? Number(plain) : null
}

const withUnit = ({ units }: Open, value: number, unit: number) => `${value}${units[unit] ? ` ${units[unit]}` : ''}`

const share = (_: Open, { value, tolerance, toleranceIn, factors }: Key, answer: Answer): number => {
  const factor = factors[answer.unit] ?? 1
  if (factor === 0) return 0
  const apart = Math.abs(answer.value * factor - value)
  const allowed = toleranceIn === 'unit' ? tolerance : (Math.abs(value) * tolerance) / 100
  return apart <= allowed + ROUNDING * Math.max(Math.abs(value), allowed) ? 1 : 0
}

export const number = {
  name: 'A number',
  asks: 'Give a number',
  fresh: () => ({
    open: { kind: 'number', units: [] },
    key: { kind: 'number', value: 0, tolerance: 0, toleranceIn: 'unit', factors: [] },
  }),
  problems: ({ units }, { factors }) => [
    ...(units.some((u) => !u.trim()) ? ['A unit is empty.'] : []),
    ...(new Set(units.map((u) => u.trim())).size < units.length ? ['Two units are the same.'] : []),
    ...(units.length > 0 && (factors.length !== units.length || factors[0] !== 1)
      ? ['Say how much of the first unit each unit is.']
      : []),
  ],
  answerProblem: ({ units }, { unit }) => (unit < Math.max(1, units.length) ? null : 'This question has no such unit.'),
  share,
  tally: (open, key, answers) =>
    tallyBy(
      answers,
      (a) => withUnit(open, a.value, a.unit),
      (a) => share(open, key, a) === 1,
    ),
  say: (open, { value, unit }) => withUnit(open, value, unit),
  sayKey: (open, { value, tolerance, toleranceIn }) =>
    withUnit(open, value, 0) +
    (tolerance > 0 ? ` ± ${toleranceIn === 'percent' ? `${tolerance} %` : withUnit(open, tolerance, 0)}` : ''),
} satisfies QuestionKind<Open, Key, Answer>
