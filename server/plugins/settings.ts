/** Refuses to start with settings that cannot be used, and says which. */
import { settingProblems } from '../settings.mjs'

export default defineNitroPlugin(() => {
  const problems = settingProblems(process.env)
  if (problems.length === 0) return
  console.error(problems.join('\n'))
  process.exit(1)
})
