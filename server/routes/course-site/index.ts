import { courseSiteHandler } from '../../utils/course-site'

/** The stand-in course site, on the same server for the demo. */
export default courseSiteHandler
