/** The few lines of an HLS playlist that have to do with captions (RFC 8216 §4.3.4.1, §4.3.4.2). */

const GROUP = 'captions'

/** An attribute's quoted string cannot hold quotes or line ends (RFC 8216 §4.2). */
const quoted = (text: string) => `"${text.replace(/["\r\n]/g, '’')}"`

/** A main playlist with a rendition of captions that every variant refers to. */
export function withSubtitles(main: string, captions: { language: string; label: string }, uri: string): string {
  const media = `#EXT-X-MEDIA:TYPE=SUBTITLES,GROUP-ID="${GROUP}",NAME=${quoted(captions.label)},LANGUAGE=${quoted(captions.language)},DEFAULT=NO,AUTOSELECT=YES,URI=${quoted(uri)}`
  const lines = main
    .split('\n')
    .map((line) => (line.startsWith('#EXT-X-STREAM-INF:') ? `${line},SUBTITLES="${GROUP}"` : line))
  const first = lines.findIndex((l) => l.startsWith('#EXT-X-STREAM-INF:') || l.startsWith('#EXT-X-MEDIA:'))
  lines.splice(first < 0 ? lines.length : first, 0, media)
  return lines.join('\n')
}

/** The playlist of captions: one WebVTT file over the whole length (s). */
export function subtitlePlaylist(file: string, length: number): string {
  return [
    '#EXTM3U',
    '#EXT-X-VERSION:6',
    '#EXT-X-PLAYLIST-TYPE:VOD',
    `#EXT-X-TARGETDURATION:${Math.max(1, Math.ceil(length))}`,
    `#EXTINF:${length.toFixed(3)},`,
    file,
    '#EXT-X-ENDLIST',
    '',
  ].join('\n')
}
