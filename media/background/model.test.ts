import { readFileSync } from 'node:fs'
import { ByteBuffer } from 'flatbuffers'
import { expect, it } from 'vitest'
import { withNormalization } from './model'

const path = new URL('../../node_modules/@mediapipe/selfie_segmentation/selfie_segmentation.tflite', import.meta.url)
const model = new Uint8Array(readFileSync(path))

/** Reads a table of a FlatBuffer as its runtime does: fields by their places. */
function open(bytes: Uint8Array) {
  const b = new ByteBuffer(bytes)
  const field = (table: number, place: number) => {
    const fields = table - b.readInt32(table)
    const offset = 4 + 2 * place < b.readInt16(fields) ? b.readInt16(fields + 4 + 2 * place) : 0
    return offset && table + offset
  }
  const follow = (at: number) => at + b.readInt32(at)
  const list = (table: number, place: number) => {
    const at = field(table, place)
    if (!at) return []
    const vector = follow(at)
    return Array.from({ length: b.readInt32(vector) }, (_, i) => follow(vector + 4 + 4 * i))
  }
  const bytesOf = (table: number, place: number) => {
    const vector = follow(field(table, place))
    return bytes.subarray(vector + 4, vector + 4 + b.readInt32(vector))
  }
  return { b, root: follow(0), field, follow, list, bytesOf }
}

it('says how its input is scaled, and is the same model', () => {
  const [before, after] = [open(model), open(withNormalization(model))]
  expect(after.b.readInt32(after.field(after.root, 0))).toBe(before.b.readInt32(before.field(before.root, 0)))
  for (const place of [1, 2]) expect(after.list(after.root, place)).toHaveLength(before.list(before.root, place).length)
  const [old, buffers] = [before.list(before.root, 4), after.list(after.root, 4)]
  expect(buffers).toHaveLength(old.length + 1)
  // Weights are where they were, and start as evenly.
  const weights = old.findIndex((table) => before.field(table, 0) && before.bytesOf(table, 0).length > 1000)
  expect(after.bytesOf(buffers[weights]!, 0)).toEqual(before.bytesOf(old[weights]!, 0))
  expect((after.bytesOf(buffers[weights]!, 0).byteOffset - before.bytesOf(old[weights]!, 0).byteOffset) % 16).toBe(0)
  const entry = after.list(after.root, 6).at(-1)!
  expect(Buffer.from(after.bytesOf(entry, 0)).toString()).toBe('TFLITE_METADATA')
  expect(after.b.readInt32(after.field(entry, 1))).toBe(old.length)
  const said = open(after.bytesOf(buffers.at(-1)!, 0).slice())
  expect(Buffer.from(after.bytesOf(buffers.at(-1)!, 0).slice(4, 8)).toString()).toBe('M001')
  const [graph] = said.list(said.root, 3)
  const [input] = said.list(graph!, 2)
  const [unit] = said.list(input!, 4)
  const options = said.follow(said.field(unit!, 1))
  const first = (place: number) => said.b.readFloat32(said.follow(said.field(options, place)) + 4)
  expect([first(0), first(1)]).toEqual([0, 255])
})
it('is refused when it is none', () => {
  expect(() => withNormalization(new Uint8Array(100))).toThrow('no TFLite model')
  expect(() => withNormalization(new Uint8Array(3))).toThrow('no TFLite model')
})
