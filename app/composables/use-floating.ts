import { onScopeDispose, shallowRef } from 'vue'

/** Document picture-in-picture, as far as the browser's own types do not know it yet (WICG draft). */
interface PictureInPictureApi {
  requestWindow(options: { width: number; height: number }): Promise<Window>
}

/**
 * A small window that stays on top of all others, for the controls: so the page itself need not be in the recorded
 * picture.
 */
export function useFloating() {
  const body = shallowRef<HTMLElement | null>(null)
  const api = (window as unknown as { documentPictureInPicture?: PictureInPictureApi }).documentPictureInPicture
  let opened: Window | null = null

  async function open(): Promise<void> {
    if (!api || opened) return
    opened = await api.requestWindow({ width: 380, height: 150 })
    // The window is empty: it gets the page's own styles.
    for (const node of document.querySelectorAll('style, link[rel=stylesheet]'))
      opened.document.head.append(node.cloneNode(true))
    opened.document.title = document.title
    opened.document.body.style.padding = '14px 18px'
    opened.addEventListener('pagehide', () => {
      opened = null
      body.value = null
    })
    body.value = opened.document.body
  }
  function close(): void {
    body.value = null
    opened?.close()
    opened = null
  }
  onScopeDispose(close)
  return { body, available: api !== undefined, open, close }
}
