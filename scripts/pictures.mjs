/**
 * What each picture of docs/screenshots shows, as the README says beside it: words that have to be on the page when it is
 * taken, and words that must not be.
 */
export const pictures = {
  welcome: { shows: ['Start my own', 'Look around the demo'] },
  term: { shows: ['The term', 'What a glacier is', 'this week'], not: ['picked'] },
  'new-lecture': { shows: ['New lecture', 'Record', 'Bring in a file'], not: ['picked'] },
  courses: { shows: ['Terms and courses', 'Import from CSV', 'PS 340'] },
  recording: { shows: ['Mark this', 'Pause'], not: ['% of frames lost'] },
  'player-live': { shows: ['Meltwater under the ice', 'Live'] },
  marking: { shows: ['What a good answer says'] },
  finishes: { shows: ['Finishes', 'New finish'] },
  'desk-tidy': { shows: ['How ice flows', 'Removed part', 'Put back'] },
  'desk-captions': { shows: ['Captions', 'Draft', 'Checked', 'On for students'] },
  'desk-lay-over': { shows: ['Mass balance', 'Laid over', 'Drawing'] },
  words: { shows: ['moulin', 'firn'] },
  orders: { shows: ['Caption orders', 'held'] },
  'desk-questions': { shows: ['Questions', 'Ask at the playhead'] },
  'desk-release': { shows: ['Release to a course', 'Visible from', 'Publish'] },
  'course-site': { shows: ['Glaciers and Meltwater', 'Week'] },
  player: { shows: ['What a glacier is'] },
  'player-question': { shows: ['Hand in answer'], not: ['Go on watching'] },
  results: { shows: ['Watched', 'Who may need a word'] },
}

/**
 * @param {import('puppeteer-core').Page} page
 * @param {keyof typeof pictures} name
 * @throws {Error} naming what is missing, or what is there and should not be
 */
export async function checkPicture(page, name) {
  const { shows, not = [] } = pictures[name]
  const texts = await Promise.all(
    page.frames().map((frame) =>
      frame.evaluate(() => {
        const named = [...document.querySelectorAll('[aria-label]')].filter((e) => e.checkVisibility())
        const written = [...document.querySelectorAll('input')].map((e) => e.value)
        return [document.body.innerText, ...written, ...named.map((e) => e.getAttribute('aria-label'))].join('\n')
      }),
    ),
  )
  const text = texts.join('\n')
  const wrong = [
    ...shows.filter((words) => !text.includes(words)).map((words) => `“${words}” is not on it`),
    ...not.filter((words) => text.includes(words)).map((words) => `“${words}” is on it`),
  ]
  if (wrong.length > 0)
    throw new Error(`The picture ${name} does not show what it should: ${wrong.join(', ')}.\n${text}`)
}
