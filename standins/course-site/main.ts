/**
 * The course site as a process of its own: `node course-site.mjs --port 3200 --data FOLDER --launch URL [--demo]`. What it
 * shares with Thaw stands in `key` and `launch-secret` in its folder.
 */
import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { parseArgs } from 'node:util'
import { CourseItem } from '../../core/schema/course-site'
import { documents, keptSecret, putFile } from '../documents'
import { serveHere } from '../serve'
import { demoCourses } from './people'
import { courseSite, StoredCourse } from './site'

const { values } = parseArgs({
  options: {
    port: { type: 'string', default: '3200' },
    data: { type: 'string', default: '.data/course-site' },
    /** Where Thaw takes a launch. */
    launch: { type: 'string', default: 'http://localhost:3000/api/watch/launch' },
    /** With the courses and students of the demo's college. */
    demo: { type: 'boolean', default: false },
  },
})
const within = (name: string) => join(values.data, name)
const courses = await documents(within('courses'), StoredCourse)
const items = await documents(within('items'), CourseItem)
// Once: what becomes of them then is kept.
if (values.demo && !existsSync(within('demo'))) {
  for (const [id, course] of Object.entries(demoCourses)) await courses.write(id, course)
  await putFile(within('demo'), new Date().toISOString())
}
const site = courseSite({
  courses,
  items,
  demo: values.demo,
  key: await keptSecret(within('key')),
  launchSecret: await keptSecret(within('launch-secret')),
  cookieSecret: await keptSecret(within('cookie-secret')),
  launchUrl: values.launch,
})
serveHere(site, Number(values.port), 'Course site')
