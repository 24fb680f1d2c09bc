/**
 * The drawn lecture hall: slides on its screen, a board, a lectern, a speaker and those who listen. Pure drawing on a
 * 2D canvas from a deck and a time, so that the live hall and the demo's makers show the same.
 */
import { slideAt, type Figure, type Slide, type TimedDeck } from './deck'
import { HALL, speakerAt, type HallView } from './view'

export type Canvas2D = CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D

const colours = {
  sky: '#EAF0F2',
  ice: '#A9CBD6',
  deep: '#3E7283',
  rock: '#6B6258',
  snow: '#FFFFFF',
  ink: '#22323A',
  quiet: '#5C6D73',
  warm: '#C9862B',
  water: '#2F6F9F',
}

function polygon(g: Canvas2D, fill: string, ...points: [number, number][]): void {
  g.fillStyle = fill
  g.beginPath()
  points.forEach(([x, y], i) => (i ? g.lineTo(x, y) : g.moveTo(x, y)))
  g.closePath()
  g.fill()
}

function line(g: Canvas2D, stroke: string, width: number, ...points: [number, number][]): void {
  g.strokeStyle = stroke
  g.lineWidth = width
  g.beginPath()
  points.forEach(([x, y], i) => (i ? g.lineTo(x, y) : g.moveTo(x, y)))
  g.stroke()
}

function label(g: Canvas2D, text: string, x: number, y: number, size = 20): void {
  g.fillStyle = colours.ink
  g.font = `${size}px "DejaVu Sans", sans-serif`
  g.fillText(text, x, y)
}

/** Each figure fills a box of 520×400 px with its own origin. */
const figures: Record<Figure, (g: Canvas2D) => void> = {
  none: () => undefined,
  glacier(g) {
    polygon(g, colours.rock, [0, 130], [150, 190], [330, 300], [520, 345], [520, 400], [0, 400])
    polygon(g, colours.ice, [0, 60], [120, 95], [260, 190], [400, 290], [430, 322], [330, 300], [150, 190], [0, 130])
    polygon(g, colours.snow, [0, 40], [110, 80], [200, 150], [190, 152], [110, 96], [0, 64])
    line(g, colours.warm, 3, [196, 40], [196, 260])
    label(g, 'accumulation', 20, 30)
    label(g, 'ablation', 300, 180)
    label(g, 'equilibrium line', 206, 60, 18)
  },
  balance(g) {
    line(g, colours.quiet, 2, [50, 20], [50, 360], [500, 360])
    g.fillStyle = colours.ice
    g.fillRect(90, 90, 110, 270)
    g.fillStyle = colours.warm
    g.fillRect(280, 170, 110, 190)
    label(g, 'gain', 120, 388)
    label(g, 'loss', 315, 388)
    label(g, '+0.4 m w.e.', 400, 130, 18)
  },
  flow(g) {
    polygon(g, colours.ice, [20, 120], [500, 180], [500, 330], [20, 300])
    polygon(g, colours.rock, [20, 300], [500, 330], [500, 400], [20, 400])
    for (let i = 0; i < 5; i++) {
      const y = 150 + i * 36
      const reach = 210 - i * 34
      line(g, colours.deep, 4, [90, y], [90 + reach, y + 18])
      polygon(g, colours.deep, [90 + reach + 14, y + 19], [90 + reach - 4, y + 8], [90 + reach - 6, y + 28])
    }
    label(g, 'fast at the surface', 300, 140, 18)
    label(g, 'slow at the bed', 170, 330, 18)
  },
  channel(g) {
    polygon(g, colours.ice, [20, 60], [500, 90], [500, 320], [20, 320])
    polygon(g, colours.rock, [20, 320], [500, 320], [500, 400], [20, 400])
    line(g, colours.water, 10, [150, 68], [160, 200], [190, 318])
    line(g, colours.water, 22, [180, 316], [500, 322])
    label(g, 'moulin', 172, 150)
    label(g, 'channel at the bed', 270, 300)
  },
  crystal(g) {
    g.save()
    g.translate(260, 200)
    for (let i = 0; i < 6; i++) {
      g.rotate(Math.PI / 3)
      line(g, colours.deep, 6, [0, 0], [0, -160])
      for (const at of [50, 90, 130])
        line(g, colours.deep, 4, [-40 + at / 6, -at - 30], [0, -at], [40 - at / 6, -at - 30])
    }
    g.restore()
  },
  layers(g) {
    const bands: [number, string, string][] = [
      [60, '#FFFFFF', 'new snow'],
      [70, '#DCE8EC', 'wind slab'],
      [26, '#C9862B', 'weak layer'],
      [90, '#BCD3DB', 'rounded grains'],
      [70, '#8FB3C0', 'ice crust'],
    ]
    let y = 40
    for (const [height, fill, name] of bands) {
      g.fillStyle = fill
      g.fillRect(60, y, 260, height)
      label(g, name, 340, y + height / 2 + 7, 18)
      y += height
    }
  },
  core(g) {
    for (let i = 0; i < 22; i++) {
      g.fillStyle = i % 2 ? '#D5E6EC' : '#A9CBD6'
      g.fillRect(190, 20 + i * 16, 110, 16)
    }
    label(g, 'one year', 330, 44, 18)
    line(g, colours.warm, 3, [305, 22], [322, 22], [322, 50], [305, 50])
    label(g, 'older', 330, 366, 18)
  },
  isotopes(g) {
    line(g, colours.quiet, 2, [40, 20], [40, 360], [500, 360])
    const points = Array.from({ length: 45 }, (_, i): [number, number] => [
      45 + i * 10,
      190 + 90 * Math.sin(i / 4.2) + 22 * Math.sin(i * 1.7),
    ])
    line(g, colours.deep, 4, ...points)
    label(g, 'warm', 430, 50, 18)
    label(g, 'cold', 430, 345, 18)
  },
}

/** A slide, filling `width`×`height` px (16:9). */
export function drawSlide(
  g: Canvas2D,
  deck: TimedDeck,
  slide: Slide,
  number: number,
  width: number,
  height: number,
): void {
  g.save()
  g.scale(width / 1280, height / 720)
  g.fillStyle = colours.sky
  g.fillRect(0, 0, 1280, 720)
  g.fillStyle = colours.deep
  g.fillRect(0, 0, 1280, 14)
  g.fillStyle = colours.ink
  g.font = 'bold 52px "DejaVu Sans", sans-serif'
  g.fillText(slide.title, 72, 120)
  g.font = '32px "DejaVu Sans", sans-serif'
  slide.lines.forEach((text, i) => {
    g.fillStyle = colours.warm
    g.fillRect(76, 208 + i * 74, 16, 16)
    g.fillStyle = colours.ink
    g.fillText(text, 116, 226 + i * 74)
  })
  g.font = '20px "DejaVu Sans", sans-serif'
  g.fillStyle = colours.quiet
  g.fillText(`${deck.course}  ·  ${deck.title}`, 72, 682)
  g.fillText(`${number + 1} / ${deck.slides.length}`, 1150, 682)
  g.translate(716, 150)
  g.scale(0.86, 0.86)
  figures[slide.figure](g)
  g.restore()
}

/**
 * The speaker from the head to the hips, 130 px wide and 330 px high, above the origin. Arms and mouth move with
 * `loudness` (0…1).
 * @param time s
 */
function drawPerson(g: Canvas2D, time: number, loudness: number, shirt = '#41606B'): void {
  const lift = 30 * Math.sin(time * 1.7) * (0.3 + loudness)
  polygon(g, shirt, [-62, 0], [-50, -218], [50, -218], [62, 0])
  line(g, shirt, 26, [-48, -200], [-104, -150 - lift], [-132, -200 - lift])
  line(g, shirt, 26, [48, -200], [82, -120], [60, -70])
  g.fillStyle = '#C99B78'
  g.beginPath()
  g.arc(0, -274, 52, 0, 2 * Math.PI)
  g.fill()
  g.fillStyle = '#4A3728'
  g.beginPath()
  g.arc(0, -290, 54, Math.PI, 2 * Math.PI)
  g.fill()
  g.fillStyle = '#22323A'
  const blink = time % 4.1 < 0.12 ? 1 : 6
  g.fillRect(-24, -276, 10, blink)
  g.fillRect(12, -276, 10, blink)
  g.beginPath()
  g.ellipse(0, -246, 14, 2 + 11 * Math.min(1, loudness * 2.2), 0, 0, 2 * Math.PI)
  g.fill()
}

/**
 * The speaker beside the board, filling `width`×`height` px (4:3). Arms and mouth move with `loudness` (0…1).
 * @param time s
 */
export function drawSpeaker(
  g: Canvas2D,
  deck: TimedDeck,
  time: number,
  loudness: number,
  width: number,
  height: number,
): void {
  g.save()
  g.scale(width / 640, height / 480)
  g.fillStyle = '#D9D2C5'
  g.fillRect(0, 0, 640, 480)
  g.fillStyle = '#2E4A42'
  g.fillRect(30, 40, 330, 210)
  g.fillStyle = '#E9EFE9'
  g.font = '24px "DejaVu Sans", sans-serif'
  g.fillText(deck.course, 54, 86)
  g.font = '19px "DejaVu Sans", sans-serif'
  g.fillText(deck.slides[slideAt(deck, time)]?.title ?? '', 54, 126)
  line(g, '#E9EFE9', 3, [54, 150], [54 + 24 * (1 + (slideAt(deck, time) % 8)), 150])
  g.fillStyle = '#8A6B4A'
  g.fillRect(0, 400, 640, 80)
  g.translate(470 + 8 * Math.sin(time * 0.9) + 26 * Math.sin(time * 0.23), 480)
  drawPerson(g, time, loudness)
  g.restore()
}

/**
 * The hall as its camera sees it, filling `width`×`height` px (4:3).
 * @param slide index of the slide on the hall's screen; @param time s; @param loudness 0…1; @param visitor where
 * another person stands, px across the hall
 */
export function drawHall(
  g: Canvas2D,
  deck: TimedDeck,
  slide: number,
  time: number,
  loudness: number,
  visitor: number,
  view: HallView,
  width: number,
  height: number,
): void {
  g.save()
  g.scale(width / HALL.width, height / HALL.height)
  g.translate(HALL.width / 2, HALL.height / 2)
  g.scale(view.zoom, view.zoom)
  g.translate(-view.x * HALL.width, -view.y * HALL.height)
  g.fillStyle = '#D9D2C5'
  g.fillRect(0, 0, HALL.width, HALL.height)
  g.fillStyle = '#C4BBA9'
  for (let x = 0; x <= HALL.width; x += 200) g.fillRect(x, 0, 4, 800)
  g.fillStyle = '#8A6B4A'
  g.fillRect(0, 800, HALL.width, 400)
  // The screen, with its slide.
  g.fillStyle = '#5C6D73'
  g.fillRect(120, 110, 760, 436)
  const shown = deck.slides[slide]
  if (shown) {
    g.save()
    g.translate(130, 120)
    drawSlide(g, deck, shown, slide, 740, 416)
    g.restore()
  }
  // The board.
  g.fillStyle = '#6B5237'
  g.fillRect(980, 200, 520, 340)
  g.fillStyle = '#2E4A42'
  g.fillRect(994, 214, 492, 312)
  g.fillStyle = '#E9EFE9'
  g.font = '34px "DejaVu Sans", sans-serif'
  g.fillText(deck.course, 1030, 274)
  g.font = '26px "DejaVu Sans", sans-serif'
  g.fillText(shown?.title ?? '', 1030, 326, 420)
  shown?.lines.slice(0, 3).forEach((text, i) => g.fillText(`– ${text}`, 1030, 372 + 42 * i, 420))
  // The speaker, behind the lectern or beside it, and whoever has come to them.
  const standing = (x: number, seconds: number, level: number, shirt?: string) => {
    g.save()
    g.translate(x, 780)
    g.scale(0.92, 0.92)
    polygon(g, '#33474F', [-58, -6], [58, -6], [44, 150], [8, 150], [0, 40], [-8, 150], [-44, 150])
    drawPerson(g, seconds, level, shirt)
    g.restore()
  }
  standing(visitor, time + 20, 0, '#8A5A44')
  standing(speakerAt(time), time, loudness)
  polygon(g, '#6B5237', [1010, 690], [1190, 690], [1170, 930], [1030, 930])
  polygon(g, '#7D6244', [990, 668], [1210, 668], [1200, 700], [1000, 700])
  // Those who listen.
  for (let row = 0; row < 2; row++)
    for (let seat = 0; seat < 11; seat++) {
      const sway = 3 * Math.sin(time * 0.7 + seat * 2.1 + row)
      g.fillStyle = ['#4A3728', '#2B2622', '#7A5A3A', '#8C8478'][(seat * 7 + row * 3) % 4] as string
      g.beginPath()
      g.arc(70 + seat * 150 - row * 60 + sway, 1060 + row * 90, 46, 0, 2 * Math.PI)
      g.fill()
      g.fillStyle = ['#41606B', '#6B6258', '#8FB3C0', '#A6643C'][(seat * 5 + row) % 4] as string
      g.fillRect(10 + seat * 150 - row * 60 + sway, 1100 + row * 90, 120, 120)
    }
  g.restore()
}
