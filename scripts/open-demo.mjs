/**
 * Opens the demo in a browser that was never here, as its first page offers it.
 * @param {import('puppeteer-core').Page} page
 * @param {string} address of the application
 */
export async function openDemo(page, address) {
  await page.goto(address)
  const offer = await page.waitForSelector('::-p-text(Look around the demo)')
  await offer?.click()
  await page.waitForSelector('header nav', { timeout: 110_000 })
}
