// npm run demo: makes the demo term again, from its decks to its publications.
import { buildWhenStale, checkNode, installDebian, installPackages, run } from './setup.mjs'

checkNode()
await installPackages()
installDebian([
  { name: 'chromium', program: ['/usr/bin/chromium'] },
  { name: 'ffmpeg', program: ['/usr/bin/ffmpeg'] },
  { name: 'flite', program: ['/usr/bin/flite'] },
  { name: 'pocketsphinx', program: ['/usr/bin/pocketsphinx_batch'] },
  { name: 'pocketsphinx-en-us', program: ['/usr/share/pocketsphinx/model/en-us/en-us.lm.bin'] },
  { name: 'fonts-dejavu-core', program: ['/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf'] },
])
await run('npx', ['tsx', 'demo/make-media.ts'])
await run('npx', ['tsx', 'demo/make-term.ts'])
await buildWhenStale()
await run('npx', ['tsx', 'demo/make-publications.ts'])
await run('npx', ['tsx', 'demo/make-answers.ts'])
