/**
 * Refuses to start with settings that cannot be used, and says which. Called before the server listens, which it does for
 * this computer alone unless it is told otherwise.
 */
import { settingProblems } from '../settings.mjs'

export default defineNitroPlugin(() => {
  const problems = settingProblems(process.env)
  if (problems.length > 0) {
    console.error(problems.join('\n'))
    process.exit(1)
  }
  process.env.NITRO_HOST = process.env.THAW_HOST || '127.0.0.1'
})
