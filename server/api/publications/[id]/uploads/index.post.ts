import { UploadStart } from '#core/schema/publication'

/** Opens an upload with the manifest, the questions and their keys. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const id = idParam(event, 'id')
  const start = await bodyAs(event, UploadStart, 'publication', 8 << 20)
  return startUpload(id, start)
})
