/**
 * Tells a segmentation model how its input is scaled. The tasks runtime of MediaPipe reads that from a model's metadata
 * (TFLite Metadata schema, `metadata_schema.fbs`), which the model that ships with `@mediapipe/selfie_segmentation` does
 * not have. FlatBuffers point forward only, and by distances: what is added goes before the model, whose bytes stay as
 * they are.
 *
 *     root' │ buffers' │ metadata' │ added buffer ‖ the model as it was
 */
import { Builder } from 'flatbuffers'

/** Of `Model` in schema.fbs, the places of what is read here. */
const FIELD = { version: 0, operators: 1, subgraphs: 2, buffers: 4, metadata: 6 }
const NAME = 'TFLITE_METADATA'
const aligned = (at: number, to = 4) => Math.ceil(at / to) * to

/** Metadata that says: pixels from 0 to 255 are divided by 255. */
function metadata(): Uint8Array {
  const b = new Builder(512)
  const list = (offsets: readonly number[]) => {
    b.startVector(4, offsets.length, 4)
    for (const offset of [...offsets].reverse()) b.addOffset(offset)
    return b.endVector()
  }
  const floats = (value: number) => {
    b.startVector(4, 1, 4)
    b.addFloat32(value)
    return b.endVector()
  }
  const table = (fields: number, ...set: [field: number, offset: number][]) => {
    b.startObject(fields)
    for (const [field, offset] of set) b.addFieldOffset(field, offset, 0)
    return b.endObject()
  }
  const [mean, deviation] = [floats(0), floats(255)]
  const normalization = table(2, [0, mean], [1, deviation])
  b.startObject(2)
  // Of the union of options, normalization is the first.
  b.addFieldInt8(0, 1, 0)
  b.addFieldOffset(1, normalization, 0)
  const units = list([b.endObject()])
  const [input, output] = [b.createString('image'), b.createString('mask')]
  const tensors = [list([table(7, [0, input], [4, units])]), list([table(7, [0, output])])] as const
  const graphs = list([table(9, [2, tensors[0]], [3, tensors[1]])])
  const parser = b.createString('1.0.0')
  b.finish(table(8, [3, graphs], [7, parser]), 'M001')
  return b.asUint8Array()
}

/** @throws {RangeError} when it is no TFLite model */
export function withNormalization(model: Uint8Array): Uint8Array {
  const old = new DataView(model.buffer, model.byteOffset, model.byteLength)
  if (model.length < 16 || String.fromCharCode(...model.subarray(4, 8)) !== 'TFL3')
    throw new RangeError('This is no TFLite model.')
  const root = old.getUint32(0, true)
  const fields = root - old.getInt32(root, true)
  const fieldAt = (field: number): number => {
    const place = 4 + 2 * field < old.getUint16(fields, true) ? old.getUint16(fields + 4 + 2 * field, true) : 0
    return place && root + place
  }
  const target = (field: number): number => {
    const at = fieldAt(field)
    return at && at + old.getUint32(at, true)
  }
  const items = (vector: number): number[] =>
    vector
      ? Array.from({ length: old.getUint32(vector, true) }, (_, i) => {
          const at = vector + 4 + 4 * i
          return at + old.getUint32(at, true)
        })
      : []
  const [buffers, known] = [items(target(FIELD.buffers)), items(target(FIELD.metadata))]
  const added = metadata()

  // Where everything stands that goes before the model.
  const rootFields = 8
  const newRoot = aligned(rootFields + 4 + 2 * 7)
  const bufferList = newRoot + 24
  const metadataList = bufferList + 4 + 4 * (buffers.length + 1)
  const entryFields = metadataList + 4 + 4 * (known.length + 1)
  const entry = aligned(entryFields + 8)
  const name = entry + 12
  const bufferFields = aligned(name + 4 + NAME.length + 1)
  const buffer = aligned(bufferFields + 6)
  const data = aligned(buffer + 8 + 4, 16) - 4
  const before = aligned(data + 4 + added.length, 16)

  const out = new Uint8Array(before + model.length)
  out.set(model, before)
  const view = new DataView(out.buffer)
  const u16 = (at: number, ...values: number[]) => values.forEach((v, i) => view.setUint16(at + 2 * i, v, true))
  const point = (at: number, to: number) => view.setUint32(at, to - at, true)
  const text = (at: number, value: string) =>
    out.set(
      [...value].map((c) => c.charCodeAt(0)),
      at,
    )
  view.setUint32(0, newRoot, true)
  text(4, 'TFL3')
  u16(rootFields, 18, 24, 4, 8, 12, 0, 16, 0, 20)
  view.setInt32(newRoot, newRoot - rootFields, true)
  view.setUint32(newRoot + 4, old.getUint32(fieldAt(FIELD.version), true), true)
  point(newRoot + 8, target(FIELD.operators) + before)
  point(newRoot + 12, target(FIELD.subgraphs) + before)
  point(newRoot + 16, bufferList)
  point(newRoot + 20, metadataList)
  view.setUint32(bufferList, buffers.length + 1, true)
  for (const [i, at] of [...buffers.map((b) => b + before), buffer].entries()) point(bufferList + 4 + 4 * i, at)
  view.setUint32(metadataList, known.length + 1, true)
  for (const [i, at] of [...known.map((m) => m + before), entry].entries()) point(metadataList + 4 + 4 * i, at)
  u16(entryFields, 8, 12, 4, 8)
  view.setInt32(entry, entry - entryFields, true)
  point(entry + 4, name)
  view.setUint32(entry + 8, buffers.length, true)
  view.setUint32(name, NAME.length, true)
  text(name + 4, NAME)
  u16(bufferFields, 6, 8, 4)
  view.setInt32(buffer, buffer - bufferFields, true)
  point(buffer + 4, data)
  view.setUint32(data, added.length, true)
  out.set(added, data + 4)
  return out
}
