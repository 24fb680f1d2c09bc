import { prefixStorage } from 'unstorage'
import { useBase } from 'h3'
import { courseSite } from '#standins/course-site/site'

/** The stand-in course site, on the same server for the demo; it shares nothing with Thaw but the launch secret. */
export default useBase('/course-site', courseSite({
  storage: prefixStorage(useStorage('thaw'), 'site'),
  secret: () => secret('course-site'),
  launchUrl: '/api/watch/launch',
}))
