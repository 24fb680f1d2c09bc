<script setup lang="ts">
import { errorMessage } from '#core/text/error-message'
import { sayCount } from '#core/text/words'
import { db, type OrderRow } from '~/db/database'
import { cancelOrder, isLate, isOpen, leaveHeld, takeHeld } from '~/services/ordering'
import { followCaptions } from '~/services/caption-tracks'
import { useJobs } from '~/stores/jobs'
import { keepFollowing } from '~/utils/follow-orders'
import { sayMoney } from '~/utils/money'

/** What was ordered of a captioning service for a course: where each order stands, by when, and what it cost. */
const courseId = useRoute().params.course as string
const jobs = useJobs()
const course = useLive(() => db.courses.get(courseId))
const orders = useLive(async () =>
  (await db.orders.where('courseId').equals(courseId).toArray()).sort((a, b) => b.placedAt.localeCompare(a.placedAt)),
)
const problem = ref('')
const busy = ref('')
useHead({ title: () => `Caption orders of ${course.value?.code ?? ''} · Thaw` })

const day = (instant: string) =>
  new Date(instant).toLocaleDateString('en-GB', { day: 'numeric', month: 'short', year: 'numeric' })
/** By currency. */
const sums = computed(() => {
  const by = new Map<string, number>()
  for (const o of orders.value ?? []) if (o.currency) by.set(o.currency, (by.get(o.currency) ?? 0) + o.price)
  return [...by].map(([currency, amount]) => sayMoney(amount, currency)).join(', ')
})
function sayState(o: OrderRow): string {
  if (o.held) return 'came, and is held'
  if (o.state === 'ready') return o.joinedAt ? `joined on ${day(o.joinedAt)}` : 'came, and was left'
  if (isLate(o)) return 'late'
  const words = { preparing: 'is being sent', sound: 'waits for its sound', work: 'is being typed' } as const
  return isOpen(o) ? words[o.state as keyof typeof words] : o.state === 'cancelled' ? 'cancelled' : 'refused'
}
const classOf = (o: OrderRow) =>
  o.held || o.state === 'refused' || isLate(o) ? 'bad' : o.state === 'ready' ? 'good' : ''

async function act(id: string, what: () => Promise<unknown>): Promise<void> {
  busy.value = id
  problem.value = ''
  try {
    await what()
  } catch (error) {
    problem.value = errorMessage(error)
  } finally {
    busy.value = ''
  }
}
const cancel = (o: OrderRow) =>
  act(o.id, async () => {
    if (await askForAuthor()) await cancelOrder(o.id)
  })
const take = (o: OrderRow) =>
  act(o.id, async () => {
    await takeHeld(o.id)
    await followCaptions(o.lectureId, () => askForAuthor('Students see it at once.'))
  })
const leave = (o: OrderRow) => act(o.id, () => leaveHeld(o.id))
const again = () =>
  act('all', async () => {
    if (await askForAuthor()) await keepFollowing(jobs, true)
  })
</script>

<template>
  <div class="page">
    <header>
      <h1>Caption orders of {{ course?.code }} {{ course?.title }}</h1>
      <el-button :loading="busy === 'all'" @click="again">Ask where they stand</el-button>
    </header>
    <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
    <p v-if="orders?.length === 0">
      Nothing is ordered. Order captions on a lecture’s Captions step, or for several that are picked on the term.
    </p>
    <template v-else-if="orders">
      <p role="status">
        {{ sayCount(orders.length, 'order', 'orders') }}, {{ orders.filter(isOpen).length }} open<template v-if="sums"
          >, {{ sums }} in all</template
        >.
      </p>
      <table class="surface">
        <thead>
          <tr>
            <th scope="col">Lecture</th>
            <th scope="col">Ordered</th>
            <th scope="col">To be there by</th>
            <th scope="col">Where it stands</th>
            <th scope="col" class="number">Price</th>
            <th scope="col"><span class="unseen">What can be done</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="o in orders" :key="o.id">
            <th scope="row">
              <NuxtLink :to="`/lecture/${o.lectureId}?step=captioned`">{{ o.title }}</NuxtLink>
              <span class="quiet">{{ o.language }}</span>
            </th>
            <td>{{ day(o.placedAt) }}</td>
            <td>{{ day(o.dueAt) }}</td>
            <td>
              <strong :class="classOf(o)">{{ sayState(o) }}</strong>
              <p v-if="o.says" class="quiet">{{ o.says }}</p>
              <ul v-if="o.held">
                <li v-for="says in o.held.problems" :key="says">{{ says }}</li>
              </ul>
            </td>
            <td class="number">{{ o.price ? sayMoney(o.price, o.currency) : '' }}</td>
            <td class="acts">
              <template v-if="o.held">
                <el-button
                  size="small"
                  type="primary"
                  :loading="busy === o.id"
                  :aria-label="`Join them all the same: ${o.title}`"
                  @click="take(o)"
                  >Join them all the same</el-button
                >
                <el-button size="small" :aria-label="`Leave them: ${o.title}`" @click="leave(o)">Leave them</el-button>
              </template>
              <el-button
                v-if="isOpen(o)"
                size="small"
                :loading="busy === o.id"
                :aria-label="`Cancel: ${o.title}`"
                @click="cancel(o)"
                >Cancel</el-button
              >
            </td>
          </tr>
        </tbody>
      </table>
    </template>
  </div>
</template>

<style scoped>
.page {
  padding: 22px 24px;
  overflow: auto;
  height: 100%;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 12px;
}
table {
  width: 100%;
  border-collapse: collapse;
}
th,
td {
  text-align: left;
  padding: 9px 12px;
  border-bottom: 1px solid var(--hairline);
  vertical-align: top;
}
th[scope='row'] {
  font-weight: 600;
}
th[scope='row'] .quiet {
  font-weight: 400;
  margin-left: 6px;
}
.number {
  text-align: right;
  font-variant-numeric: tabular-nums;
}
.acts {
  white-space: nowrap;
}
td p,
td ul {
  margin: 2px 0 0;
  padding-left: 0;
  max-width: 46ch;
}
td ul {
  padding-left: 18px;
}
.bad {
  color: var(--ember);
}
.good {
  color: var(--moss-ink);
}
</style>
