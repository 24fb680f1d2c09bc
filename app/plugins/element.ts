import ElementPlus from 'element-plus'

export default defineNuxtPlugin((nuxt) => {
  nuxt.vueApp.use(ElementPlus)
})
