<script setup lang="ts">
import { ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { ElButton, ElInput } from 'element-plus'
import type { OutboxView } from '@tin-harbor/core/contract'
import { ApiError, api } from '@/api'
import { useSession } from '@/stores/session'
import './sign-in.css'

const session = useSession()
const route = useRoute()
const router = useRouter()
const email = ref('')
const password = ref('')
const problem = ref<string | null>(null)
const isBusy = ref(false)

const letter = ref<OutboxView | null>(null)
async function onForgot() {
  problem.value = null
  letter.value = null
  try {
    letter.value = await api.forgotPassword(email.value)
  } catch (error) {
    problem.value = error instanceof ApiError ? (error.issues[0]?.message ?? error.message) : String(error)
  }
}

async function onSubmit() {
  isBusy.value = true
  problem.value = null
  try {
    await session.signIn(email.value, password.value)
    const to =
      typeof route.query.to === 'string' && route.query.to.startsWith('/') && !route.query.to.startsWith('//') ? route.query.to : '/market'
    await router.push(to)
  } catch (error) {
    problem.value = error instanceof ApiError ? (error.issues[0]?.message ?? error.message) : String(error)
  } finally {
    isBusy.value = false
  }
}
</script>

<template>
  <main class="SignInView">
    <form @submit.prevent="onSubmit">
      <svg width="44" height="44" viewBox="0 0 22 22" aria-hidden="true">
        <path d="M2 15 q3 -3 6 0 t6 0 t6 0 M2 19 q3 -3 6 0 t6 0 t6 0" fill="none" stroke="var(--water-2)" stroke-width="1.4" />
        <path d="M6 12 V4 h10 V12 M4.5 4 h13" fill="none" stroke="var(--brass)" stroke-width="1.6" />
      </svg>
      <h1>Tin Harbor</h1>
      <p class="quiet">Buy inventory one impression at a time, and know what it will bring before you do.</p>
      <label for="email">E-mail</label>
      <ElInput id="email" v-model="email" autocomplete="username" type="email" autofocus />
      <label for="password">Password</label>
      <ElInput
        id="password"
        v-model="password"
        autocomplete="current-password"
        type="password"
        :aria-invalid="problem !== null"
        aria-describedby="sign-in-problem" />
      <p id="sign-in-problem" class="trouble small" role="alert">{{ problem }}</p>
      <ElButton type="primary" native-type="submit" :loading="isBusy">Sign in</ElButton>
      <p class="SignInView-forgot small">
        <button class="plain" type="button" data-test="forgot" @click="onForgot">I forgot my password</button>
      </p>
      <div role="status">
        <p v-if="letter" class="small" data-test="letter">
          If somebody here has this address, a letter is on its way with a link that is good for an hour.
          <template v-if="letter.outbox"
            >The mail service is a stand-in: <a :href="letter.outbox" target="_blank" rel="noopener">its letters</a>.</template
          >
        </p>
      </div>
    </form>
  </main>
</template>
