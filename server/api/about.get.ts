/** What this server has, for whoever opens the application for the first time. */
export default defineEventHandler(() => ({ demo: Boolean(process.env.THAW_DEMO_FILES) }))
