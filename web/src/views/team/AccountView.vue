<script setup lang="ts">
import { onMounted, ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import { ElButton, ElInput } from 'element-plus'
import {
  DATE_FORMATS,
  NUMBER_FORMATS,
  ROLE_WORDS,
  WEEK_STARTS,
  changePasswordSchema,
  parseInput,
  type Formats
} from '@tin-harbor/core/buying'
import type { SessionView } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { marketTime, money, realTime, useFormats } from '@/composables/formats'
import { useFormProblems } from '@/composables/use-form-problems'
import FieldRow from '@/parts/FieldRow.vue'
import { useMarket } from '@/stores/market'
import { useSession } from '@/stores/session'
import YourTokens from './YourTokens.vue'
import './team.css'

/** What is somebody's own: their password, where they are signed in, how figures are written for them, and their tokens. */
const session = useSession()
const router = useRouter()
const market = useMarket()
const sessions = shallowRef<SessionView[]>([])
const typed = ref({ old: '', password: '' })
const isChanged = ref(false)
const { problem, isBusy, submit } = useFormProblems()
const writing = useFormProblems()
const ending = useFormProblems()
const formats = ref<Formats>(session.user?.formats ?? { numbers: '1,234.50', dates: '2 Mar', week: 'Monday' })
const load = async () => (sessions.value = await api.sessions().catch(() => []))
onMounted(load)

const onPassword = () =>
  submit(async () => {
    isChanged.value = false
    await api.changePassword(parseInput(changePasswordSchema, typed.value))
    typed.value = { old: '', password: '' }
    isChanged.value = true
    await load()
  })
const onFormats = () =>
  writing.submit(async () => {
    await api.saveFormats(formats.value)
    if (session.user) session.user.formats = { ...formats.value }
    useFormats({ ...formats.value })
  })
async function onSignOut() {
  await session.signOut()
  await router.push({ name: 'sign-in' })
}
const onEnd = (id: number) => ending.submit(async () => void (sessions.value = await api.endSession(id)))
/** A browser's name in what it says of itself. */
const agentWords = (agent: string) =>
  [/(Firefox|Edg|OPR|Chrome|Safari)\/\d+/.exec(agent)?.[0].replace('/', ' '), /(Windows|Mac OS X|Android|Linux|iPhone)/.exec(agent)?.[0]]
    .filter(Boolean)
    .join(' on ') || 'something that says no name'
</script>

<template>
  <div class="TeamView page">
    <h1>Your account</h1>
    <p v-if="session.user" class="page-sentence">
      {{ session.user.name }}, {{ session.user.email }}: {{ session.user.role }}, who {{ ROLE_WORDS[session.user.role] }}.
      <button class="plain small" type="button" data-test="sign-out" @click="onSignOut">Sign out</button>
    </p>
    <div class="TeamView-parts">
      <div>
        <YourTokens />
      </div>
      <div>
        <section aria-labelledby="formats-head">
          <h2 id="formats-head">How figures are written</h2>
          <form novalidate @submit.prevent="onFormats">
            <FieldRow label="Numbers" for="numbers" :problem="writing.problem('numbers')">
              <select id="numbers" v-model="formats.numbers" data-test="numbers">
                <option v-for="(_, name) in NUMBER_FORMATS" :key="name">{{ name }}</option>
              </select>
            </FieldRow>
            <FieldRow label="Dates" for="dates" :problem="writing.problem('dates')">
              <select id="dates" v-model="formats.dates" data-test="dates">
                <option v-for="(_, name) in DATE_FORMATS" :key="name">{{ name }}</option>
              </select>
            </FieldRow>
            <FieldRow label="Weeks begin on" for="week" :problem="writing.problem('week')">
              <select id="week" v-model="formats.week">
                <option v-for="(_, name) in WEEK_STARTS" :key="name">{{ name }}</option>
              </select>
            </FieldRow>
            <ElButton size="small" native-type="submit" :loading="writing.isBusy.value" data-test="save-formats">Save</ElButton>
            <p v-if="writing.problem('')" class="trouble" role="alert">{{ writing.problem('') }}</p>
            <p class="small quiet" data-test="formats-now">
              Now: {{ money(1_234_500_000) }}<template v-if="market.isKnown">; {{ marketTime(market.run.hour) }}</template
              >.
            </p>
          </form>
        </section>
        <section aria-labelledby="password-head">
          <h2 id="password-head">Your password</h2>
          <form novalidate @submit.prevent="onPassword">
            <FieldRow label="As it is" for="old" :problem="problem('old')"
              ><ElInput id="old" v-model="typed.old" type="password" autocomplete="current-password"
            /></FieldRow>
            <FieldRow label="The new one" for="password" :problem="problem('password')"
              ><ElInput id="password" v-model="typed.password" type="password" autocomplete="new-password"
            /></FieldRow>
            <ElButton size="small" native-type="submit" :loading="isBusy" data-test="change-password">Change it</ElButton>
            <p v-if="problem('')" class="trouble" role="alert">{{ problem('') }}</p>
            <p v-if="isChanged" role="status">It is changed; you are signed out everywhere else.</p>
          </form>
        </section>
        <section aria-labelledby="sessions-head">
          <h2 id="sessions-head">Where you are signed in</h2>
          <ul>
            <li v-for="one in sessions" :key="one.id" class="PersonEntry" data-test="session">
              {{ agentWords(one.agent) }}<b v-if="one.isThis">, here</b>
              <p class="small">
                <span class="quiet">since {{ realTime(one.madeAt) }}, used last {{ realTime(one.seenAt) }}</span>
                <button
                  v-if="!one.isThis"
                  class="plain"
                  type="button"
                  :aria-label="`End the session of ${agentWords(one.agent)}`"
                  data-test="end-session"
                  @click="onEnd(one.id)">
                  end it
                </button>
              </p>
            </li>
          </ul>
          <p v-if="ending.problem('')" class="trouble" role="alert">{{ ending.problem('') }}</p>
        </section>
      </div>
    </div>
  </div>
</template>
