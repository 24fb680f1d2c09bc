/** The demo term's question sets with their keys. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  return (await demoQuestions()) ?? refuse(404, 'This server has no demo term.')
})
