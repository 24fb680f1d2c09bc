// npm run dependencies: writes what Thaw is made of (CycloneDX 1.5) from the lock file, and prints what is known against it,
// where the registry answers.
import { execFile } from 'node:child_process'
import { mkdirSync, writeFileSync } from 'node:fs'
import { join, relative } from 'node:path'
import { root } from './setup.mjs'

const bill = join(root, '.build', 'sbom.cdx.json')

/** @returns {Promise<string>} standard output of npm, whether it found something wrong or not */
const npm = (...args) =>
  new Promise((resolve, reject) =>
    execFile('npm', args, { cwd: root, maxBuffer: 64 << 20 }, (error, output, said) =>
      output ? resolve(output) : reject(new Error(said.trim() || 'npm said nothing', { cause: error })),
    ),
  )

/** @param {string} output of `npm audit --json` @returns {string} what it says, as lines for a person */
export function sayAudit(output) {
  const { metadata, vulnerabilities, message } = JSON.parse(output)
  if (!metadata) return `The registry does not say what is known against packages: ${message ?? 'no reason given'}.`
  const found = Object.values(vulnerabilities)
  if (found.length === 0) return 'Nothing is known against any package.'
  const lines = found.map(
    ({ name, severity, via }) =>
      `  ${severity}: ${name}${via.flatMap(({ title }) => (title ? [`, ${title}`] : [])).join('')}`,
  )
  return [`Something is known against ${found.length} of the packages:`, ...lines].join('\n')
}

async function main() {
  const made = await npm('sbom', '--sbom-format', 'cyclonedx', '--package-lock-only', '--omit', 'dev')
  const { components } = JSON.parse(made)
  mkdirSync(join(root, '.build'), { recursive: true })
  writeFileSync(bill, made)
  console.log(`${components.length} packages stand in ${relative(root, bill)}.`)
  console.log(sayAudit(await npm('audit', '--json', '--omit', 'dev')))
}
if (process.argv[1] === import.meta.filename) await main()
