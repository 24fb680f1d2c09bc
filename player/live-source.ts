/**
 * Brings a live playlist into a video element: by hls.js where the browser plays media from scripts, by the browser
 * itself elsewhere.
 */

export interface LiveSource {
  /** Seconds between what is seen and what has been sent; null while nothing is. */
  behind(): number | null
  /** Jumps to what is sent now. */
  toNow(): void
  close(): void
}

/**
 * How far behind what has been sent it is played, s: a little more than two segments, so that it seldom has to wait.
 */
const BEHIND = 4
/** After a fatal error it is tried again, ms. */
const AGAIN = 2000

/**
 * @param onTrouble told a sentence, and an empty one when it is over
 * @throws {Error} with a sentence when this browser cannot play it
 */
export async function openLive(
  video: HTMLVideoElement,
  playlist: string,
  onTrouble: (says: string) => void,
): Promise<LiveSource> {
  // Loaded only by those who watch live.
  const { default: Hls } = await import('hls.js/light')
  if (!Hls.isSupported()) {
    if (!video.canPlayType('application/vnd.apple.mpegurl'))
      throw new Error('This browser cannot play a lecture live. A current one can; the recording will be here later.')
    video.src = playlist
    const edge = () => (video.seekable.length ? video.seekable.end(video.seekable.length - 1) : null)
    return {
      behind: () => {
        const end = edge()
        return end === null ? null : Math.max(0, end - video.currentTime)
      },
      toNow() {
        video.currentTime = Math.max(0, (edge() ?? 0) - BEHIND)
      },
      close: () => video.removeAttribute('src'),
    }
  }
  // Who fell a little behind by waiting is brought up to it, too little to be heard; who went back is not.
  const hls = new Hls({ liveSyncDuration: BEHIND, maxLiveSyncPlaybackRate: 1.05, backBufferLength: 180 })
  let timer: ReturnType<typeof setTimeout> | undefined
  hls.on(Hls.Events.ERROR, (_, { fatal, type }) => {
    if (!fatal) return
    onTrouble('There is trouble with the connection. It is tried again.')
    clearTimeout(timer)
    timer = setTimeout(() => {
      if (type === Hls.ErrorTypes.MEDIA_ERROR) hls.recoverMediaError()
      else hls.loadSource(playlist)
    }, AGAIN)
  })
  hls.on(Hls.Events.FRAG_BUFFERED, () => onTrouble(''))
  hls.loadSource(playlist)
  hls.attachMedia(video)
  return {
    behind: () => (hls.liveSyncPosition === null ? null : hls.latency),
    toNow() {
      if (hls.liveSyncPosition !== null && hls.liveSyncPosition > video.currentTime)
        video.currentTime = hls.liveSyncPosition
    },
    close() {
      clearTimeout(timer)
      hls.destroy()
    },
  }
}
