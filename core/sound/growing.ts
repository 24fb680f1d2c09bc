/** A list of numbers that grows without boxing them. */
export function growing(): { push(value: number): void; values(): Float32Array } {
  let room = new Float32Array(4096)
  let count = 0
  return {
    push(value) {
      if (count === room.length) {
        const larger = new Float32Array(2 * count)
        larger.set(room)
        room = larger
      }
      room[count++] = value
    },
    values: () => room.subarray(0, count),
  }
}
