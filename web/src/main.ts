import { createApp } from 'vue'
import { createPinia } from 'pinia'
import './theme'
import App from './App.vue'
import { router } from './router'
import { whenSignedOut } from './api'
import { useSession } from './stores/session'

const app = createApp(App).use(createPinia())
whenSignedOut(() => {
  useSession().user = null
  void router.push({ name: 'sign-in', query: { to: router.currentRoute.value.fullPath } })
})
app.use(router).mount('#app')
