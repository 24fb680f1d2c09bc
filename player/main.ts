import { createApp } from 'vue'
import LecturePlayer from './LecturePlayer.vue'
import { httpGateway } from './gateway'
import './player.css'

const placeId = /^#([A-Za-z0-9_-]{1,64})$/.exec(location.hash)?.[1] ?? ''
createApp(LecturePlayer, { gateway: httpGateway(placeId), storage: localStorage }).mount('#player')
