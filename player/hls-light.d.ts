/**
 * hls.js without what a lecture does not need (other sound tracks, subtitles, encryption); the package describes only
 * the whole of it.
 */
declare module 'hls.js/light' {
  export { default } from 'hls.js'
}
