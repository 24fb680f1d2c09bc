import { createApp } from 'vue'
import { deviceStorage } from './device'
import { httpGateway } from './gateway'
import { forgetfulStorage, trialOf } from './trial'
import WatchPage from './WatchPage.vue'
import './player.css'

// The launch puts place and token behind `#`; the token is then kept for this tab and leaves the address.
const launch = new URLSearchParams(location.hash.slice(1))
const placeId = /^[A-Za-z0-9_-]{1,64}$/.exec(launch.get('place') ?? '')?.[0] ?? ''
const session = deviceStorage(() => sessionStorage)
const key = `thaw-session:${placeId}`
let token = launch.get('token') ?? session.getItem(key) ?? ''
const port = {
  read: () => token,
  write(next: string) {
    token = next
    session.setItem(key, next)
  },
}
if (placeId) {
  port.write(token)
  history.replaceState(history.state, '', `#place=${placeId}`)
}

const trial = trialOf(window)
createApp(
  WatchPage,
  trial
    ? { gateway: trial, storage: forgetfulStorage() }
    : { gateway: httpGateway(placeId, port), storage: deviceStorage(() => localStorage) },
).mount('#player')
