/**
 * What holds for the whole process. Refuses to start with settings that cannot be used, and says which. Called before the server listens, which it does for
 * this computer alone unless it is told otherwise.
 */
import { settingProblems } from '../settings.mjs'

export default defineNitroPlugin(() => {
  // Whoever read the log may be gone: that is told to nobody, as telling it fails the same way, and again and again.
  for (const log of [process.stdout, process.stderr]) log.on('error', () => undefined)
  const problems = settingProblems(process.env)
  if (problems.length > 0) {
    console.error(problems.join('\n'))
    process.exit(1)
  }
  process.env.NITRO_HOST = process.env.THAW_HOST || '127.0.0.1'
})
