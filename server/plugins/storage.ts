/**
 * Opens the storage that everything on the server goes through: files below THAW_DATA. Media go there too, or through
 * the unstorage driver that the module THAW_PARTS makes. Nobody is served before it is open and what a killed server
 * left is put right.
 */
import { errorMessage } from '#core/text/error-message'
import { resolve } from 'node:path'
import { rm } from 'node:fs/promises'
import { openFileStore } from '../store/files'
import { driverOf } from '../store/parts'
import { upgradeFolder } from '../utils/upgrade'
import { plantDemo } from '../utils/demo'
import { removeLiveOrphans } from '../utils/live'
import { tellUntold } from '../utils/course-site'
import { giveUpStale, removeOrphans, removeReplaced } from '../utils/publications'
import { forgetByAge, retentionDays } from '../utils/forgetting'
import { forgetLaunches } from '../utils/sessions'
import { speechFolder } from '../recogniser'
import { setStore } from '../utils/storage'

/** How often what is over is removed, ms. */
const EVERY = 60 * 60 * 1000

async function open(folder: string): Promise<void> {
  process.umask(0o077)
  const store = await openFileStore({
    folder,
    ...(process.env.THAW_PARTS && { parts: await driverOf(process.env.THAW_PARTS) }),
    onLost(error) {
      console.error(error.message)
      process.exit(1)
    },
  })
  setStore(store)
  await upgradeFolder(folder, store)
  await rm(speechFolder(), { recursive: true, force: true })
  await removeOrphans()
  await removeLiveOrphans()
  // Without room for the demo, what is there is served all the same.
  await plantDemo().catch((error: unknown) => console.error('The demo term could not be laid out:', error))
}

/** How often all that is kept is looked through for what is too old, ms. */
const EVERY_DAY = 24 * EVERY
let lookedAt = 0
async function removeWhatIsOld(): Promise<void> {
  const days = retentionDays()
  if (days === null || Date.now() - lookedAt < EVERY_DAY) return
  await forgetByAge(days)
  lookedAt = Date.now()
}

const removeWhatIsOver = async () => {
  await giveUpStale()
  await removeReplaced()
  await forgetLaunches()
  await tellUntold()
  await removeWhatIsOld()
}

export default defineNitroPlugin((nitro) => {
  const opening = open(resolve(process.env.THAW_DATA ?? '.data')).catch((error: unknown) => {
    console.error(errorMessage(error))
    process.exit(1)
  })
  nitro.hooks.hook('request', () => opening)
  // Nobody waits for another house's answer.
  void opening.then(removeWhatIsOld).catch((error: unknown) => console.error(error))
  void opening.then(tellUntold).catch((error: unknown) => console.error(error))
  const timer = setInterval(
    () => void opening.then(removeWhatIsOver).catch((error: unknown) => console.error(error)),
    EVERY,
  )
  timer.unref()
})
