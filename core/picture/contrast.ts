/** How well words can be read on what is behind them: contrast ratio of WCAG 2.2 (relative luminance, IEC 61966-2-1). */

/** What text of a usual size needs (WCAG 2.2, 1.4.3 level AA), and large text. */
export const ENOUGH = { text: 4.5, large: 3 }

const linear = (channel: number): number => {
  const share = channel / 255
  return share <= 0.04045 ? share / 12.92 : ((share + 0.055) / 1.055) ** 2.4
}

/** Relative luminance of an sRGB colour of 0…255, 0 black to 1 white. */
export const luminance = (red: number, green: number, blue: number): number =>
  0.2126 * linear(red) + 0.7152 * linear(green) + 0.0722 * linear(blue)

/** @param colour `#rrggbb` */
export function luminanceOf(colour: string): number {
  const value = parseInt(colour.slice(1), 16)
  return luminance((value >> 16) & 255, (value >> 8) & 255, value & 255)
}

/** Contrast ratio of two luminances, 1 to 21. */
export const contrast = (a: number, b: number): number => (Math.max(a, b) + 0.05) / (Math.min(a, b) + 0.05)

/**
 * The contrast of an ink to a picture: what nine of ten pixels reach, so that a thin line does not decide.
 * @param rgba pixels, four bytes each
 */
export function contrastOver(ink: string, rgba: Uint8ClampedArray): number {
  const own = luminanceOf(ink)
  const found: number[] = []
  for (let i = 0; i + 3 < rgba.length; i += 4)
    found.push(contrast(own, luminance(rgba[i] as number, rgba[i + 1] as number, rgba[i + 2] as number)))
  found.sort((a, b) => a - b)
  return found[Math.floor(found.length / 10)] ?? 21
}
