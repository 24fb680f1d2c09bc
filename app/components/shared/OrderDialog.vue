<script setup lang="ts">
import dayjs from 'dayjs'
import type { ServiceConnection } from '#core/schema/answers'
import { errorMessage } from '#core/text/error-message'
import { sayCount } from '#core/text/words'
import { sayDuration } from '#core/time/timecode'
import { db } from '~/db/database'
import { connect, connection, orderables, placeOrders, type Orderable } from '~/services/ordering'
import { useJobs } from '~/stores/jobs'
import { keepFollowing } from '~/utils/follow-orders'
import { sayMoney } from '~/utils/money'

/** Orders captions of a service for lectures; its account is connected here the first time. */
const props = defineProps<{ lectureIds: readonly string[] }>()
const emit = defineEmits<{ close: [] }>()
const jobs = useJobs()
const service = shallowRef<ServiceConnection | null>(null)
const found = shallowRef<Orderable[]>([])
const address = ref('')
const key = ref('')
const due = ref(dayjs().add(7, 'day').toDate())
const notes = ref('')
const problem = ref('')
const told = ref('')
const busy = ref(false)
const courseIds = useLive(async () => [
  ...new Set((await db.lectures.bulkGet([...props.lectureIds])).flatMap((l) => (l ? [l.courseId] : []))),
])

const ready = computed(() => found.value.filter((o) => !o.problem))
const not = computed(() => found.value.filter((o) => o.problem))
/** Begun minutes are paid for. */
const price = computed(() => {
  const { account } = service.value ?? {}
  const minutes = ready.value.reduce((sum, o) => sum + Math.max(1, Math.ceil(o.duration / 60)), 0)
  return account ? sayMoney(minutes * account.pricePerMinute, account.currency) : ''
})
/** Today is too late. */
const isOver = (day: Date) => day < new Date()

async function attempt(what: () => Promise<void>): Promise<void> {
  busy.value = true
  problem.value = ''
  try {
    await what()
  } catch (error) {
    problem.value = errorMessage(error)
  } finally {
    busy.value = false
  }
}
const look = () =>
  attempt(async () => {
    found.value = await orderables(props.lectureIds)
    if (!(await askForAuthor('Ordering needs it.'))) {
      emit('close')
      return
    }
    const now = await connection()
    service.value = now
    address.value ||= now.address
    problem.value = now.says
  })
onMounted(look)
const join = () =>
  attempt(async () => {
    service.value = await connect(address.value, key.value)
    key.value = ''
  })
const order = () =>
  attempt(async () => {
    const ids = ready.value.map((o) => o.lectureId)
    const count = await placeOrders(ids, dayjs(due.value).endOf('day').toISOString(), notes.value)
    told.value = `Ordered for ${sayCount(count, 'lecture', 'lectures')}. Where each stands follows by itself.`
    found.value = await orderables(props.lectureIds)
    // It goes on when this is closed.
    void keepFollowing(jobs)
  })
</script>

<template>
  <el-dialog :model-value="true" title="Order captions" width="min(620px, 94vw)" top="7vh" @close="emit('close')">
    <form v-if="service && !service.account" class="connect" aria-label="Account of the service" @submit.prevent="join">
      <p>
        People of a captioning service type what is said. Connect the account once: its key stands on the service’s own
        page.
      </p>
      <el-input v-model="address" aria-label="Address of the service" placeholder="https://…" />
      <el-input v-model="key" aria-label="Key of the account" type="password" show-password placeholder="Key" />
      <p v-if="service?.address" class="quiet">
        <a :href="service?.address" target="_blank" rel="noopener">The service’s page</a>
      </p>
      <el-button native-type="submit" type="primary" :loading="busy" :disabled="!address.trim() || !key.trim()"
        >Connect</el-button
      >
    </form>
    <template v-else-if="service?.account">
      <p class="quiet">
        Account {{ service.account.name }}, {{ sayMoney(service.account.pricePerMinute, service.account.currency) }} a
        minute.
      </p>
      <ul v-if="ready.length" class="wanted" aria-label="What is ordered">
        <li v-for="o in ready" :key="o.lectureId">
          <span>{{ o.title }}</span> <span class="quiet">{{ sayDuration(o.duration) }}</span>
        </li>
      </ul>
      <ul v-if="not.length" class="wanted" aria-label="What cannot be ordered">
        <li v-for="o in not" :key="o.lectureId">
          <span>{{ o.title }}</span> <span class="quiet">{{ o.problem }}</span>
        </li>
      </ul>
      <form v-if="ready.length" class="order" aria-label="Order" @submit.prevent="order">
        <div class="field">
          <span>To be there by</span>
          <el-date-picker
            v-model="due"
            type="date"
            aria-label="To be there by"
            :clearable="false"
            :disabled-date="isOver"
          />
        </div>
        <el-input
          v-model="notes"
          type="textarea"
          :rows="2"
          maxlength="4000"
          aria-label="Notes for those who type"
          placeholder="Notes for those who type: names, who speaks, what is shown"
        />
        <p class="quiet">
          The sound goes to the service, with the captions that are there and the course’s word list. What comes back is
          joined as checked, or held where something speaks against it.
        </p>
      </form>
    </template>
    <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
    <p v-if="told" class="notice good" role="status">{{ told }}</p>
    <p class="links">
      <NuxtLink v-for="id in courseIds" :key="id" :to="`/orders/${id}`">Orders of the course</NuxtLink>
    </p>
    <template #footer>
      <el-button @click="emit('close')">Close</el-button>
      <el-button v-if="service?.account && ready.length" type="primary" :loading="busy" @click="order"
        >Order for {{ price }}</el-button
      >
    </template>
  </el-dialog>
</template>

<style scoped>
.connect,
.order {
  display: flex;
  flex-direction: column;
  gap: 8px;
  align-items: stretch;
}
.connect .el-button {
  align-self: flex-start;
}
p {
  margin: 0 0 6px;
}
.wanted {
  list-style: none;
  margin: 0 0 10px;
  padding: 0;
  max-height: 30vh;
  overflow: auto;
}
.wanted li {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  padding: 4px 0;
  border-top: 1px solid var(--hairline);
}
.field {
  display: flex;
  gap: 10px;
  align-items: center;
}
.links {
  display: flex;
  gap: 12px;
}
</style>
