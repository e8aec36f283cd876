import './app/no-eval.ts'
import '@fontsource-variable/atkinson-hyperlegible-next'
import '@fontsource-variable/bricolage-grotesque'
import { PiniaColada } from '@pinia/colada'
import 'ant-design-vue/dist/reset.css'
import { createPinia } from 'pinia'
import { createApp } from 'vue'
import App from './app/App.vue'
import { watchForRenewal } from './app/renewed.ts'
import { router } from './app/router.ts'
import { watchForUnexpected } from './app/unexpected.ts'
import { runBackStep } from './stores/back-steps.ts'
import { useMessages } from './stores/messages.ts'
import './ui/theme.ts'
import './app/tokens.css'

watchForRenewal(router)
const app = createApp(App).use(createPinia()).use(PiniaColada, {}).use(router)
watchForUnexpected(app)
useMessages().restore(runBackStep)
app.mount('#app')
