/**
 * Lets workers find their files by `self.location` and not by `import.meta`: in Chromium (seen in 156) a module worker
 * whose page is left while the worker starts is evaluated without its context, where the first `import.meta` ends the
 * whole renderer, and with it the page that comes next. Both give the same address, as all files of a worker are in one
 * folder.
 * @type {import('vite').Plugin}
 */
export const workerUrls = {
  name: 'thaw:worker-urls',
  enforce: 'post',
  renderChunk: (code) =>
    code.includes('import.meta.url')
      ? { code: code.replaceAll('import.meta.url', 'self.location.href'), map: null }
      : null,
}
