/**
 * Ten made lectures of one course, written for measuring what the recogniser learns of a course: what is said, what stands on
 * the slides, and which of the words are the subject's own.
 */
export interface MadeLecture {
  title: string
  slides: string[]
  script: string
}

export const lectures: MadeLecture[] = [
  {
    title: 'From snow to firn',
    slides: ['Snow that stays', 'What firn is', 'Densification with depth', 'Close-off of the pores'],
    script:
      'Snow that survives one summer is called firn. Firn is older than snow and younger than ice. As more snow falls on top, the firn is pressed together, and we call this densification. Densification is slow where the winters are cold. The grains grow by sintering, which means that they bond where they touch. Sintering needs no water at all. At some depth the pores between the grains close, and from there on air cannot move. Below that depth firn has become ice. In a wet valley this takes ten years. On a cold plateau, densification may take a thousand.',
  },
  {
    title: 'Mass balance',
    slides: ['Accumulation and ablation', 'The equilibrium line', 'Sublimation', 'Stakes and pits'],
    script:
      'Every glacier has an account with two sides. Accumulation is what it gains, and ablation is what it loses. Most of the accumulation is snow, and some of it is rime. Most of the ablation is melting, but in dry air there is sublimation too. Sublimation takes ice away without making any water. Where accumulation and ablation are the same, we draw the equilibrium line. In a warm year the equilibrium line climbs. We measure ablation with stakes that we drill into the ice, and accumulation with pits that we dig in the spring.',
  },
  {
    title: 'How ice moves',
    slides: ['Creep', 'Basal sliding', 'Regelation behind an obstacle', 'Crevasses and seracs'],
    script:
      'Ice moves in two ways. The first is creep, in which the crystals deform under stress. The second is basal sliding, where the whole glacier slips over its bed. Basal sliding needs water. In front of an obstacle the ice melts, and behind it the water freezes again, and this is regelation. Regelation helps the ice around small stones. Where the bed is steep, the ice breaks, and a crevasse opens. A crevasse is rarely deeper than thirty meters. Where many crevasses meet, towers of ice are left, and each of them is a serac. Never stand below a serac.',
  },
  {
    title: 'What glaciers leave behind',
    slides: ['Till and moraine', 'Drumlins', 'Eskers', 'Erratics'],
    script:
      'A glacier carries stones and drops them where it melts. A ridge of such stones is a moraine. The moraine at the end of the valley shows how far the ice once came. Under the ice, till is shaped into long hills, and such a hill is a drumlin. A drumlin points in the direction of the flow. Rivers under the ice leave sand in their tunnels, and when the ice is gone an esker remains. An esker can run for many miles. A single boulder far from home is an erratic. Moraine, drumlin, esker and erratic together tell us where the ice has been.',
  },
  {
    title: 'Wind and the surface',
    slides: ['Katabatic wind', 'Sastrugi', 'Albedo', 'Nunataks'],
    script:
      'Cold air is heavy and runs down the slope. We call this a katabatic wind. A katabatic wind can blow for weeks. It cuts the snow into hard waves, and these waves are sastrugi. Sastrugi point into the wind, so that we can read the wind from a photograph. Fresh snow sends most of the light back, and the share that goes back is the albedo. Old snow has a lower albedo. Dust makes the albedo lower still. Where a mountain stands out of the ice, we speak of a nunatak. Around each nunatak the wind has dug a moat.',
  },
  {
    title: 'Water on and under the ice',
    slides: ['Moulins', 'The supraglacial stream', 'Subglacial channels', 'Outburst floods'],
    script:
      'In summer a supraglacial stream runs over the surface. Sooner or later it finds a hole, and the hole is called a moulin. A moulin may go down to the bed. There the water joins a subglacial channel. A subglacial channel grows when there is much water and closes when there is little. When the moulin is full, the pressure lifts the glacier a little. Then the subglacial water spreads, and the ice speeds up. In winter the moulin freezes shut, and the supraglacial stream is gone.',
  },
  {
    title: 'Reading an ice core',
    slides: ['Stratigraphy', 'Isotopes of oxygen', 'Deuterium', 'Tephra layers'],
    script:
      'An ice core is a book whose pages are years. The order of its layers is its stratigraphy. To read the stratigraphy we count dark and bright bands. Then we measure an isotope of oxygen. The heavy isotope is rare when the air was cold. Deuterium tells the same story, and with both of them we know where the snow came from. Now and then there is ash in the core, and we call it tephra. Each layer of tephra has a fingerprint. When the same tephra is found in two cores, both have the same age there. So stratigraphy, deuterium and tephra are read together.',
  },
  {
    title: 'Frozen ground',
    slides: ['Permafrost', 'Pingos', 'Thermokarst', 'Solifluction'],
    script:
      'Ground that stays frozen for two years is permafrost. Above the permafrost is a layer that thaws each summer. Where water is pressed up from below and freezes, a hill grows, and such a hill is a pingo. A pingo can be as high as a house of ten floors. When the ice in the ground melts, the surface sinks, and this is thermokarst. A thermokarst lake grows from year to year. On a slope, wet soil creeps over the permafrost, and we speak of solifluction. Solifluction moves a field by an inch in a year.',
  },
  {
    title: 'Ice of the sea',
    slides: ['Frazil', 'Nilas', 'Brine rejection', 'Polynyas'],
    script:
      'When the sea freezes, small needles float up first, and these needles are frazil. Frazil makes the water look like grease. Then a thin dark sheet forms, and that sheet is nilas. Nilas bends with the waves. Salt is pushed out of the ice as it grows, and the salty water that drips out is brine. The brine is heavy and sinks. In some places the wind keeps the water open all winter, and such a place is a polynya. A polynya makes new ice all the time. Much brine comes from each polynya.',
  },
  {
    title: 'Snow in the air and on the ground',
    slides: ['Graupel', 'Hoarfrost', 'Depth hoar', 'The weak layer'],
    script:
      'Not all snow is made of stars. When drops freeze on a crystal, it becomes a soft ball, and we call it graupel. Graupel rolls down a slope and gathers below. On clear nights hoarfrost grows on the surface. Hoarfrost is beautiful and dangerous, as new snow does not stick to it. Near the ground, where it is warm, the grains turn into cups, and this is depth hoar. Depth hoar is weak for the whole winter. An avalanche starts where a slab lies on graupel, on hoarfrost or on depth hoar. So dig, and look for the weak layer.',
  },
]

/** The course's word list. */
export const terms: string[] = [
  ...['firn', 'densification', 'sintering', 'accumulation', 'ablation', 'sublimation', 'rime', 'equilibrium line'],
  ...[
    'basal sliding',
    'regelation',
    'crevasse',
    'serac',
    'moraine',
    'drumlin',
    'esker',
    'erratic',
    'till',
    'katabatic',
  ],
  ...['sastrugi', 'albedo', 'nunatak', 'supraglacial', 'moulin', 'subglacial', 'stratigraphy', 'isotope', 'deuterium'],
  ...['tephra', 'permafrost', 'pingo', 'thermokarst', 'solifluction', 'frazil', 'nilas', 'brine', 'polynya', 'graupel'],
  ...['hoarfrost', 'depth hoar'],
]
