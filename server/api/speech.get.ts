/** Whether speech can be recognised here, and if not, how to make it so. */
export default defineEventHandler(async () => {
  const available = await hasRecogniser()
  return { available, says: available ? '' : RECOGNISER_MISSING }
})
