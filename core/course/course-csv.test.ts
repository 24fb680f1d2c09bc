import { describe, expect, it } from 'vitest'
import { readCourses, readMeetings, writeCourses } from './course-csv'

const isLanguage = (tag: string) => /^(en|de|pt-BR)$/.test(tag)
const read = (text: string, known: string[] = []) => readCourses(text, known, isLanguage)

describe('courses from a table', () => {
  it('are read whatever parts the fields, in any order of the columns, with what is missing left out', () => {
    for (const mark of [',', ';', '\t']) {
      const meets = mark === ';' ? '"Mon 10:15-12:00; Thu 14.00 – 15.30"' : 'Mon 10:15-12:00; Thu 14.00 – 15.30'
      const text = `\ufefftitle${mark}CODE${mark}Meets\r\nOceans${mark} OC  1 ${mark}${meets}\r\n\r\nTides${mark}OC 2${mark}\r\n`
      expect(read(text)).toEqual({
        courses: [
          {
            ...{ code: 'OC 1', title: 'Oceans', lecturer: '', language: '' },
            meetings: [
              { weekday: 1, from: '10:15', to: '12:00' },
              { weekday: 4, from: '14:00', to: '15:30' },
            ],
          },
          { code: 'OC 2', title: 'Tides', lecturer: '', language: '', meetings: [] },
        ],
        problems: [],
      })
    }
  })
  it('that cannot be taken are named by their line, and the others are', () => {
    const text = [
      'Code,Title,Lecturer,Language,Meets',
      'OC 1,Oceans,"Ada Nordby,\nwith others",en,',
      ',Tides,,,',
      'OC 3,,,,',
      'oc 1,Again,,,',
      'HI 1,History,,,',
      'OC 4,Currents,,klingon,',
      'OC 5,Salt,,,someday',
      `${'x'.repeat(41)},Long,,,`,
      'OC 6,Waves,,de,Fri 8:00 to 9:00',
    ].join('\n')
    const { courses, problems } = read(text, ['HI 1'])
    expect(courses.map((c) => c.code)).toEqual(['OC 1', 'OC 6'])
    expect(problems).toEqual([
      { line: 4, says: 'The code is missing.' },
      { line: 5, says: 'OC 3 has no title.' },
      { line: 6, says: 'oc 1 is in line 2 already.' },
      { line: 7, says: 'There is a course HI 1 already.' },
      { line: 8, says: '“klingon” is not a language. Write it as en, de or pt-BR.' },
      { line: 9, says: '“someday” is not a day and times. Write it as Mon 10:15-12:00.' },
      { line: 10, says: 'The code is longer than 40 characters.' },
    ])
  })
  it('are none in what is no such table', () => {
    expect(() => read('Name,Room\na,b')).toThrow('Code and Title are missing')
    expect(() => read('Code,Room\na,b')).toThrow('Title is missing')
    expect(() => read('Code,Title\n\n')).toThrow('no courses in this file')
    expect(() => read('')).toThrow('has to name its columns')
  })
  it('are written as they are read, and no formula runs in a spreadsheet', () => {
    const { courses } = read(
      'Code,Title,Lecturer,Language,Meets\n=1+1,"Waves, ""long""",Ada,en,Mon 10:15-12:00;Tue 9:00-9:45\n',
    )
    const written = writeCourses(courses)
    expect(written).toContain("'=1+1")
    expect(read(written).courses).toEqual(courses)
  })
})

describe('when a course meets', () => {
  it.each([
    ['', []],
    ['monday 9:00-10:00', [{ weekday: 1, from: '09:00', to: '10:00' }]],
    [
      'Sun. 09:00-10:00, sat 9:05–10:00',
      [
        { weekday: 7, from: '09:00', to: '10:00' },
        { weekday: 6, from: '09:05', to: '10:00' },
      ],
    ],
    ['Mon 10:00-09:00', '“Mon 10:00-09:00” ends before it begins.'],
    ['Mon 25:00-26:00', '“Mon 25:00-26:00” is not a day and times. Write it as Mon 10:15-12:00.'],
    ['Mon', '“Mon” is not a day and times. Write it as Mon 10:15-12:00.'],
  ])('%s', (text, meant) => {
    expect(readMeetings(text)).toEqual(meant)
  })
})
