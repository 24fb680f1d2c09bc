import { errorMessage } from '#core/text/error-message'
import { followOrders } from '~/services/ordering'
import type { useJobs } from '~/stores/jobs'

let next: ReturnType<typeof setTimeout> | undefined

/**
 * Follows what was ordered now, and from then on for as long as the page is open.
 * @param again whether those that have come lately are asked for too
 */
export async function keepFollowing(jobs: ReturnType<typeof useJobs>, again = false): Promise<void> {
  clearTimeout(next)
  const wait = await followOrders(jobs, again).catch((error: unknown) => {
    ElMessage({ type: 'error', message: errorMessage(error) })
    return 60_000
  })
  clearTimeout(next)
  next = setTimeout(() => void keepFollowing(jobs), wait)
}
