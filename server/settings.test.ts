import { readdirSync, readFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { describe, expect, it } from 'vitest'
import { settingProblems, settings, settingsTable, toolSettings, toolSettingsTable } from './settings.mjs'

const at = (path: string) => fileURLToPath(new URL(`../${path}`, import.meta.url))

describe('settings', () => {
  it('are taken where they are good, and where they are not set', () => {
    expect(
      settingProblems({
        PORT: '3000',
        THAW_HOST: '::',
        THAW_TRUSTED_PROXIES: '127.0.0.1, 10.0.0.0/8 fd00::/8',
        THAW_DATA: at('core'),
        THAW_AUTHOR_KEY: 'a-key-of-16-char',
        THAW_DEMO: 'off',
        THAW_DEMO_FILES: at('demo/publications'),
        THAW_COURSE_SITE: 'https://courses.example.edu/site',
        THAW_COURSE_SITE_KEY: 'a-key-of-the-site',
        THAW_LAUNCH_SECRET: 'a-secret-of-the-site',
        THAW_CAPTIONING: 'http://localhost:3100',
        THAW_CAPTIONING_HOSTS: 'captions.internal, 10.0.0.7:8080 [fd00::1]',
        THAW_RECOGNISER: at('examples/recogniser.mjs'),
        THAW_RECOGNISER_LANGUAGES: 'en, pt-BR zh-Hans',
        THAW_RETENTION_DAYS: '400',
        THAW_PARTS: at('server/settings.mjs'),
        THAW_FRAME_ANCESTORS: "'self' https://*.example.edu:8443 localhost:* https:",
        THAW_TEST_PORT: '1',
        OTHER: 'thaw',
      }),
    ).toEqual([])
    expect(settingProblems(Object.fromEntries(settings.map(({ name }) => [name, ''])))).toEqual([])
    expect(settingProblems({ THAW_DATA: at('not/there/yet'), THAW_RECOGNISER: 'HTTPS://speech.example.edu' })).toEqual(
      [],
    )
  })

  it.each([
    ['PORT', '70000', 'PORT is “70000”, which is not a port'],
    ['PORT', '80a', 'not a port'],
    ['THAW_HOST', 'a b', 'not a network address'],
    ['THAW_TRUSTED_PROXIES', '10.0.0.0/33', '“10.0.0.0/33” is not an address'],
    ['THAW_TRUSTED_PROXIES', '10.0.0.1,proxy', '“proxy” is not an address'],
    ['THAW_DATA', at('package.json'), 'is a file. Give the path of a folder'],
    ['THAW_DEMO', 'no', 'must be on or off'],
    ['THAW_DEMO_FILES', at('docs'), 'there is no demo in that folder'],
    ['THAW_COURSE_SITE', 'courses.example.edu', 'not a web address'],
    ['THAW_CAPTIONING', 'ftp://example.edu', 'not a web address'],
    ['THAW_CAPTIONING_HOSTS', 'captions.internal, http://b', '“http://b” is not a host'],
    ['THAW_RECOGNISER', '/nothing/here', 'no such file'],
    ['THAW_RECOGNISER', 'http://', 'not a web address'],
    ['THAW_RECOGNISER_LANGUAGES', 'en, french!', '“french!” is not a language tag'],
    ['THAW_RETENTION_DAYS', '7', 'from 30 to 36500'],
    ['THAW_RETENTION_DAYS', '1e3', 'not a number of days'],
    ['THAW_PARTS', './parts.mjs', 'no such file'],
    ['THAW_FRAME_ANCESTORS', 'https://a.example; script-src *', 'is not a site'],
    ['THAW_FRAME_ANCESTORS', 'https://a.example,https://b.example', 'is not a site'],
    ['THAW_DATE', '.data', 'THAW_DATE is not a Thaw setting'],
  ])('%s = %s is refused with a sentence', (name, value, says) => {
    const problems = settingProblems({ [name]: value })
    expect(problems).toHaveLength(1)
    expect(problems[0]).toContain(says)
    expect(problems[0]).toMatch(/\.$/)
  })

  it('of a course site are set together', () => {
    expect(settingProblems({ THAW_COURSE_SITE: 'https://courses.example.edu' })).toEqual([
      'To connect a course site, set THAW_COURSE_SITE_KEY and THAW_LAUNCH_SECRET as well.',
    ])
    expect(settingProblems({ THAW_LAUNCH_SECRET: 'a-secret-of-the-site' })).toHaveLength(1)
  })

  it('a key that is too short, or has spaces, is not printed', () => {
    for (const key of ['s3cret', 'a key with several spaces']) {
      const [says] = settingProblems({ THAW_AUTHOR_KEY: key })
      expect(says).toContain('at least 12')
      expect(says).not.toContain(key)
    }
  })

  it('stand in docs/settings.md, all of them that any code reads', () => {
    const docs = readFileSync(at('docs/settings.md'), 'utf8')
    expect(docs).toContain(settingsTable())
    expect(docs).toContain(toolSettingsTable())
    const known = [...settings.map(({ name }) => name), ...Object.keys(toolSettings)]
    const folders = ['server', 'scripts', 'test', 'standins', 'media', 'demo', 'app', 'core', 'player']
    const read = folders
      .flatMap((folder) =>
        readdirSync(at(folder), { recursive: true, encoding: 'utf8' }).map((path) => `${folder}/${path}`),
      )
      .filter((path) => /\.(ts|mjs|vue)$/.test(path) && path !== 'server/settings.test.ts')
      .flatMap((path) => readFileSync(at(path), 'utf8').match(/\bTHAW_[A-Z_]+/g) ?? [])
    expect(read.length).toBeGreaterThan(20)
    expect([...new Set(read)].filter((name) => !known.includes(name))).toEqual([])
  })
})
