// Every setting that is read from the environment, with what it means and what is wrong with a value. Plain JavaScript, as
// the start command checks them before anything is installed; docs/settings.md has the same table.
import { existsSync, statSync } from 'node:fs'
import { isIP } from 'node:net'
import { resolve } from 'node:path'

/**
 * @typedef {object} Setting
 * @property {string} name
 * @property {string} what what it is for, as Markdown
 * @property {string} unset the default, as Markdown
 * @property {(value: string) => string | null} problem what is wrong with a value, as the end of a sentence that begins
 * with its name and value
 * @property {boolean} [isSecret] that the value is not to be printed
 */

/** @param {string} value */
function addressProblem(value) {
  const isAddress = URL.canParse(value) && /^https?:$/.test(new URL(value).protocol)
  return isAddress ? null : 'which is not a web address. It must begin with http:// or https://.'
}

/** @param {string} value */
const fileProblem = (value) =>
  existsSync(resolve(value)) ? null : 'but there is no such file. Give the path of an existing file.'

/** Whether it is an address, or a network in CIDR notation (RFC 4632). @param {string} value */
function isNetwork(value) {
  const [address = '', bits, ...more] = value.split('/')
  const family = isIP(address)
  if (!family || more.length > 0) return false
  return bits === undefined || (/^\d{1,3}$/.test(bits) && Number(bits) <= (family === 4 ? 32 : 128))
}

/** A source of a Content Security Policy Level 3, clause 2.3.1: a host with or without scheme, port and path, or a scheme. */
const frameSource =
  /^('self'|'none'|\*|[a-z][a-z\d+.-]*:|([a-z][a-z\d+.-]*:\/\/)?(\*|(\*\.)?[a-z\d-]+(\.[a-z\d-]+)*)(:(\d+|\*))?(\/[^\s;,]*)?)$/i

/** Whether it is a host, with or without a port, as an address names it. @param {string} value */
const isHost = (value) => URL.canParse(`http://${value}`) && new URL(`http://${value}`).host === value.toLowerCase()

/** Characters of a key that nobody guesses. */
const MIN_KEY_LENGTH = 12

/** @param {string} value */
const keyProblem = (value) =>
  new RegExp(`^[\\x21-\\x7e]{${MIN_KEY_LENGTH},}$`).test(value)
    ? null
    : `is too short or contains spaces. Use at least ${MIN_KEY_LENGTH} letters, digits or symbols.`

/** What a course site needs; none of them is any use without the others. */
const ofCourseSite = ['THAW_COURSE_SITE', 'THAW_COURSE_SITE_KEY', 'THAW_LAUNCH_SECRET']

/** @type {Setting[]} */
export const settings = [
  {
    name: 'PORT',
    what: 'The port Thaw listens on. `--port` overrides it.',
    unset: '3000',
    problem: (value) =>
      /^\d+$/.test(value) && Number(value) >= 1 && Number(value) <= 65_535
        ? null
        : 'which is not a port. Give a number from 1 to 65535, such as 3000.',
  },
  {
    name: 'THAW_HOST',
    what: 'The network address Thaw listens on: `0.0.0.0` for all, so that other computers reach it.',
    unset: '127.0.0.1 (this computer only)',
    problem: (value) =>
      isIP(value) || /^[a-z\d]([a-z\d.-]*[a-z\d])?$/i.test(value)
        ? null
        : 'which is not a network address. Give one of this computer’s, such as 0.0.0.0 for all of them.',
  },
  {
    name: 'THAW_TRUSTED_PROXIES',
    what: 'Proxies in front of Thaw, separated by commas: `127.0.0.1, 10.0.0.0/8`. They are believed who a request comes from.',
    unset: 'none',
    problem(value) {
      const wrong = value.split(/[\s,]+/).filter((one) => one && !isNetwork(one))
      return wrong.length === 0
        ? null
        : `but “${wrong[0]}” is not an address. List addresses or networks separated by commas, such as 10.0.0.0/8.`
    },
  },
  {
    name: 'THAW_DATA',
    what: 'The folder for published lectures and everything students send. Back it up. Only one server may use it at a time.',
    unset: '`.data`',
    problem: (value) =>
      existsSync(resolve(value)) && !statSync(resolve(value)).isDirectory()
        ? 'which is a file. Give the path of a folder; it is created if it does not exist.'
        : null,
  },
  {
    name: 'THAW_AUTHOR_KEY',
    what: 'The key that signs a browser in as the author. Changing it signs every browser out.',
    unset: 'generated at the first start, stored in the data folder and printed',
    problem: keyProblem,
    isSecret: true,
  },
  {
    name: 'THAW_DEMO',
    what: 'Whether the demo is offered on the first page, and its lectures are published on this server: `on` or `off`.',
    unset: '`on`',
    problem: (value) => (/^(on|off)$/.test(value) ? null : 'but must be on or off.'),
  },
  {
    name: 'THAW_DEMO_FILES',
    what: 'The folder with the demo publications, for a server started without `npm start`, which sets it.',
    unset: 'no demo',
    problem: (value) =>
      existsSync(resolve(value, 'questions.json'))
        ? null
        : 'but there is no demo in that folder. Give the path of demo/publications, or leave it unset.',
  },
  {
    name: 'THAW_COURSE_SITE',
    what: 'The address of the course site that lectures are published to.',
    unset: 'the bundled stand-in, which `npm start` starts',
    problem: addressProblem,
  },
  {
    name: 'THAW_COURSE_SITE_KEY',
    what: 'The key with which this server calls the course site. The site has it too.',
    unset: 'generated with the bundled stand-in',
    problem: keyProblem,
    isSecret: true,
  },
  {
    name: 'THAW_LAUNCH_SECRET',
    what: 'The secret with which the course site signs [launches](formats.md#launch). The site has it too.',
    unset: 'generated with the bundled stand-in',
    problem: keyProblem,
    isSecret: true,
  },
  {
    name: 'THAW_CAPTIONING',
    what: 'The address suggested when you connect a captioning service.',
    unset: 'the bundled stand-in, which `npm start` starts',
    problem: addressProblem,
  },
  {
    name: 'THAW_CAPTIONING_HOSTS',
    what: 'Hosts in your own network that a captioning service may run on, separated by commas: `captions.internal, 10.0.0.7:8080`. Hosts on the internet need not be listed.',
    unset: 'none but the one of `THAW_CAPTIONING`',
    problem(value) {
      const wrong = value.split(/[\s,]+/).filter((one) => one && !isHost(one))
      return wrong.length === 0
        ? null
        : `but “${wrong[0]}” is not a host. List names or addresses separated by commas, such as captions.internal.`
    },
  },
  {
    name: 'THAW_RECOGNISER',
    what: 'The speech recogniser that [drafts captions](formats.md#speech): path of a program or address of a service.',
    unset: 'Debian’s pocketsphinx, if installed',
    problem: (value) => (/^https?:\/\//i.test(value) ? addressProblem(value) : fileProblem(value)),
  },
  {
    name: 'THAW_RECOGNISER_LANGUAGES',
    what: 'The languages it understands, as BCP 47 tags: `en,fr`.',
    unset: 'all',
    problem(value) {
      const wrong = value.split(/[\s,]+/).filter((tag) => tag && !/^[a-z]{2,8}(-[a-z\d]{1,8})*$/i.test(tag))
      return wrong.length === 0
        ? null
        : `but “${wrong[0]}” is not a language tag. List BCP 47 tags separated by commas, such as en,fr.`
    },
  },
  {
    name: 'THAW_RETENTION_DAYS',
    what: 'Days after which answers, grades and watching of a student at a lecture are deleted, counted from the last of them; the activity log too.',
    unset: 'nothing is deleted by age',
    problem: (value) =>
      /^\d+$/.test(value) && Number(value) >= 30 && Number(value) <= 36_500
        ? null
        : 'which is not a number of days. Give a whole number from 30 to 36500, such as 400.',
  },
  {
    name: 'THAW_PARTS',
    what: 'Where media are stored: path of a module whose default export returns an [unstorage](https://unstorage.unjs.io) driver.',
    unset: 'files in the data folder',
    problem: fileProblem,
  },
  {
    name: 'THAW_FRAME_ANCESTORS',
    what: 'Sites that may embed the player, separated by spaces: `https://courses.example.edu`; `*` for any.',
    unset: 'the course site',
    problem(value) {
      const wrong = value.split(/\s+/).filter((source) => source && !frameSource.test(source))
      return wrong.length === 0
        ? null
        : `but “${wrong[0]}” is not a site. List addresses separated by spaces, such as https://courses.example.edu.`
    },
  },
]

/** Settings of tests and tools; nothing of an application that runs. */
export const toolSettings = {
  CHROMIUM: 'Path of the browser for tests, screenshots and the command line.',
  THAW_TEST_PORT: 'Port of the server that the end-to-end tests start. `npm test -- --port N` sets it.',
  THAW_TEST_WORKERS:
    'How many files of end-to-end tests run side by side, each with a server of its own, on that port and the next ones. 1; `npm test` takes 2.',
  THAW_AT_LENGTH:
    'If set, engine and end-to-end tests also run the long tests that `npm test` skips. `npm run trials` sets it.',
  THAW_TRIALS_SHARE: 'Fraction of the repetitions in a trial, up to 1. `npm run trials -- --share` sets it.',
}

/**
 * What is wrong with an environment: a sentence for each setting that cannot be used, and for each name that begins as one
 * of Thaw's and is none. What is set to nothing counts as not set.
 * @param {Record<string, string | undefined>} environment
 * @returns {string[]}
 */
export function settingProblems(environment) {
  const known = [...settings.map(({ name }) => name), ...Object.keys(toolSettings)]
  const strangers = Object.keys(environment)
    .filter((name) => name.startsWith('THAW_') && !known.includes(name))
    .map((name) => `${name} is not a Thaw setting. See docs/settings.md for the list.`)
  const wrong = settings.flatMap(({ name, problem, isSecret }) => {
    const value = environment[name]
    const found = value ? problem(value) : null
    return found ? [isSecret ? `${name} ${found}` : `${name} is “${value}”, ${found}`] : []
  })
  const missing = ofCourseSite.filter((name) => !environment[name])
  const torn =
    wrong.length === 0 && missing.length > 0 && missing.length < ofCourseSite.length
      ? [`To connect a course site, set ${missing.join(' and ')} as well.`]
      : []
  return [...strangers, ...wrong, ...torn]
}

/** The table of docs/settings.md. */
export const settingsTable = () =>
  [
    '| Setting | What it does | Default |',
    '|---|---|---|',
    ...settings.map(({ name, what, unset }) => `| \`${name}\` | ${what} | ${unset} |`),
  ].join('\n')

/** The table of settings of tests and tools. */
export const toolSettingsTable = () =>
  [
    '| Setting | What it does |',
    '|---|---|',
    ...Object.entries(toolSettings).map(([name, what]) => `| \`${name}\` | ${what} |`),
  ].join('\n')
