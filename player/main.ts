import { createApp } from 'vue'
import { httpGateway } from './gateway'
import WatchPage from './WatchPage.vue'
import './player.css'

const placeId = /^#([A-Za-z0-9_-]{1,64})$/.exec(location.hash)?.[1] ?? ''
createApp(WatchPage, { gateway: httpGateway(placeId), storage: localStorage }).mount('#player')
