/** The demo term's lectures: what is on the slides and what is said. Norrhaven Polar College is a made-up place. */
import type { Deck } from '../standins/hall/deck'

export const decks: Record<string, Deck> = {
  glacier: {
    course: 'PS 201',
    title: 'What a glacier is',
    slides: [
      {
        title: 'What a glacier is',
        lines: ['Ice that lasts', 'Ice that moves'],
        figure: 'glacier',
        says: 'Good morning. This is the first lecture on glaciers and meltwater. A glacier is a body of ice that lasts from year to year, and that moves under its own weight.',
      },
      {
        title: 'Gain and loss',
        lines: ['Accumulation: snow stays', 'Ablation: ice is lost'],
        figure: 'balance',
        says: 'High on the glacier more snow falls than melts. We call this accumulation. Lower down more ice is lost than gained. We call that ablation. Remember these two words, because everything in this course comes back to them.',
      },
      {
        title: 'The equilibrium line',
        lines: ['Gain equals loss', 'It moves from year to year'],
        figure: 'glacier',
        says: 'Between the two lies the equilibrium line. Along this line the gain of the year is equal to the loss. In a warm year the line moves up the mountain.',
      },
      {
        title: 'Next week',
        lines: ['Read chapter one', 'Bring warm clothes'],
        figure: 'none',
        says: 'Next week we measure the balance of a small glacier. Please read chapter one before you come.',
      },
    ],
  },
  balance: {
    course: 'PS 201',
    title: 'Mass balance',
    slides: [
      {
        title: 'Mass balance',
        lines: ['Winter gain', 'Summer loss'],
        figure: 'balance',
        says: 'Welcome back. Today we look at mass balance. It is the difference between what a glacier gains in winter and what it loses in summer.',
      },
      {
        title: 'Stakes and pits',
        lines: ['Stakes show the loss', 'Pits show the gain'],
        figure: 'layers',
        says: 'We drill long stakes into the ice and read them at the end of the summer. In spring we dig pits in the snow, and weigh the snow that we find.',
      },
      {
        title: 'Water equivalent',
        lines: ['Depth times density', 'One number for the year'],
        figure: 'balance',
        says: 'Snow is lighter than ice. So we turn every depth into water equivalent, which is depth times density. Then the whole year becomes one number.',
      },
    ],
  },
  flow: {
    course: 'PS 201',
    title: 'How ice flows',
    slides: [
      {
        title: 'How ice flows',
        lines: ['It deforms', 'It slides'],
        figure: 'flow',
        says: 'Let me start. Sorry, one moment please. So. Today we ask how ice flows. Ice moves in two ways. It deforms inside, and it slides over its bed.',
      },
      {
        title: 'Deformation',
        lines: ['Slow at the bed', 'Fast at the surface'],
        figure: 'flow',
        says: 'Ice deforms under stress. Near the bed it is held back. At the surface it moves fastest. The rate grows with the third power of the stress.',
      },
      {
        title: 'Sliding',
        lines: ['Water at the bed', 'Faster in summer'],
        figure: 'channel',
        says: 'When there is water at the bed, the whole glacier can slide. That is why many glaciers move faster in summer than in winter.',
      },
    ],
  },
  meltwater: {
    course: 'PS 201',
    title: 'Meltwater under the ice',
    slides: [
      {
        title: 'Meltwater under the ice',
        lines: ['From the surface', 'to the bed'],
        figure: 'channel',
        says: 'Today we follow the water. In summer the surface of the glacier melts, and the water runs in small rivers over the ice.',
      },
      {
        title: 'Moulins',
        lines: ['Holes in the ice', 'Hundreds of metres deep'],
        figure: 'channel',
        says: 'Sooner or later the water finds a hole. We call such a hole a moulin. The water falls hundreds of metres to the bed of the glacier.',
      },
      {
        title: 'Channels',
        lines: ['Many small, or few large', 'Pressure decides'],
        figure: 'flow',
        says: 'At the bed the water opens channels. In early summer there are many small ones under high pressure. Later there are few large ones, and the pressure falls.',
      },
    ],
  },
  crystals: {
    course: 'PS 115',
    title: 'Snow crystals',
    slides: [
      {
        title: 'Snow crystals',
        lines: ['Six sides', 'Many forms'],
        figure: 'crystal',
        says: 'Hello and welcome to reading snow. Every snow crystal has six sides, because the water molecules in ice are arranged in six sided rings.',
      },
      {
        title: 'Temperature and moisture',
        lines: ['Plates', 'Needles', 'Stars'],
        figure: 'crystal',
        says: 'The form depends on the temperature and the moisture of the cloud. Near minus two degrees we find plates. Near minus five we find needles. Near minus fifteen we find the large stars.',
      },
      {
        title: 'On the ground',
        lines: ['Crystals change', 'They become grains'],
        figure: 'layers',
        says: 'On the ground the crystals do not stay as they are. They lose their arms within days and become small round grains. This is called metamorphism.',
      },
    ],
  },
  layers: {
    course: 'PS 115',
    title: 'Layers and weak layers',
    slides: [
      {
        title: 'Layers',
        lines: ['Each storm a layer', 'Each layer a story'],
        figure: 'layers',
        says: 'Each storm leaves a layer, and each layer has a story. Today we dig a pit and read the layers from the top to the bottom.',
      },
      {
        title: 'Weak layers',
        lines: ['Surface hoar', 'Depth hoar'],
        figure: 'layers',
        says: 'A weak layer is thin and fragile. Two kinds are common. Surface hoar grows on clear nights. Depth hoar grows at the bottom of a shallow snow pack.',
      },
      {
        title: 'A simple test',
        lines: ['Cut a column', 'Tap and count'],
        figure: 'layers',
        says: 'We cut a column of snow and tap on it with the hand. We count the taps until the column breaks. The fewer the taps, the weaker the layer.',
      },
    ],
  },
  drilling: {
    course: 'PS 340',
    title: 'Drilling an ice core',
    slides: [
      {
        title: 'Drilling an ice core',
        lines: ['Years become metres', 'Deeper is older'],
        figure: 'core',
        says: 'Welcome to ice cores and past climate. An ice core is a long cylinder of ice, drilled from the top of an ice sheet to its bed. The deeper we go, the older the ice.',
      },
      {
        title: 'Counting years',
        lines: ['Summer and winter', 'Dust and ash'],
        figure: 'core',
        says: 'Summer snow and winter snow look different, so near the top we can count the years like the rings of a tree. Layers of volcanic ash give us fixed dates.',
      },
      {
        title: 'Trapped air',
        lines: ['Bubbles close in the firn', 'Air is younger than ice'],
        figure: 'isotopes',
        says: 'Between the grains there is air. When the snow turns into ice, the air is trapped in bubbles. The air is therefore younger than the ice around it.',
      },
    ],
  },
  isotopes: {
    course: 'PS 340',
    title: 'Oxygen isotopes',
    slides: [
      {
        title: 'Oxygen isotopes',
        lines: ['Light and heavy water', 'A thermometer'],
        figure: 'isotopes',
        says: 'Water comes in a light and a heavy form. The heavy form has an oxygen atom with two more neutrons. We call such forms isotopes.',
      },
      {
        title: 'Why it works',
        lines: ['Heavy water rains out first', 'Cold air holds less of it'],
        figure: 'isotopes',
        says: 'Heavy water condenses first. The colder the air on its way, the less heavy water is left in the snow. So the ratio of the two is a thermometer of the past.',
      },
      {
        title: 'Reading the curve',
        lines: ['Warm and cold ages', 'Sudden steps'],
        figure: 'isotopes',
        says: 'Here is the curve of the last hundred thousand years. You see slow waves, and you see sudden steps. The steps took only a few decades.',
      },
    ],
  },
}
