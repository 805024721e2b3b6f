<script setup lang="ts">
import { computed, onMounted, ref, shallowRef } from 'vue'
import { ElButton, ElInput } from 'element-plus'
import { RIGHT_WORDS, TOKEN_RIGHTS, accessTokenSchema, hasRight, parseInput, type Right } from '@tin-harbor/core/buying'
import type { AccessTokenView } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { realTime } from '@/composables/formats'
import { useFormProblems } from '@/composables/use-form-problems'
import FieldRow from '@/parts/FieldRow.vue'
import { useManifest } from '@/stores/manifest'
import { useSession } from '@/stores/session'
import { joinedNames, namedBy } from './rights-words'

/** Tokens by which scripts act for somebody: made, shown once, taken back. */
const session = useSession()
const manifest = useManifest()
const tokens = shallowRef<AccessTokenView[]>([])
const secret = ref<string | null>(null)
const typed = ref({ name: '', rights: ['read'] as Right[], all: true, advertisers: [] as number[], days: 30 })
const { problem, isBusy, submit } = useFormProblems()
const revoking = useFormProblems()
onMounted(async () => {
  void manifest.load()
  tokens.value = await api.tokens().catch(() => [])
})
const mine = TOKEN_RIGHTS.filter((right) => session.user != null && hasRight(session.user.role, right))
const onMake = () =>
  submit(async () => {
    secret.value = null
    const { name, rights, all, advertisers, days } = typed.value
    const made = await api.makeToken(parseInput(accessTokenSchema, { name, rights, advertisers: all ? null : advertisers, days }))
    secret.value = made.secret
    tokens.value = [made.token, ...tokens.value]
    typed.value.name = ''
  })
const onRevoke = (id: number) => revoking.submit(async () => void (tokens.value = await api.revokeToken(id)))
const names = computed(() => new Map(manifest.advertisers.map(({ id, name }) => [id, name])))
const forWhom = ({ advertisers }: AccessTokenView) =>
  advertisers === null ? 'all that you see' : joinedNames(namedBy(names.value, advertisers))
function stateOf({ state, expiresAt, usedAt, rights, now }: AccessTokenView): string {
  if (state === 'revoked') return 'taken back'
  if (state === 'expired') return `ended ${realTime(expiresAt)}`
  const used = usedAt === null ? 'never used' : `used last ${realTime(usedAt)}`
  return `good until ${realTime(expiresAt)}; ${used}${now.length < rights.length ? '; of this you may less by now, and so may it' : ''}`
}
</script>

<template>
  <section aria-labelledby="tokens-head">
    <h2 id="tokens-head">Your tokens</h2>
    <p class="small quiet">
      By a token a script acts for you: never more than you may yourself. <a href="/api/openapi.json">What it can ask for (OpenAPI)</a>
    </p>
    <ul>
      <li v-for="token in tokens" :key="token.id" class="PersonEntry" data-test="token">
        <b>{{ token.name }}</b>: may {{ token.rights.map((right) => RIGHT_WORDS[right]).join('; ') }}, for {{ forWhom(token) }}.
        <p class="small">
          <span class="quiet">{{ stateOf(token) }}</span>
          <button
            v-if="token.state === 'good'"
            class="plain"
            type="button"
            :aria-label="`Take back ${token.name}`"
            data-test="revoke-token"
            @click="onRevoke(token.id)">
            take it back
          </button>
        </p>
      </li>
    </ul>
    <p v-if="revoking.problem('')" class="trouble" role="alert">{{ revoking.problem('') }}</p>
    <form novalidate @submit.prevent="onMake">
      <FieldRow label="For what" for="token-name" :problem="problem('name')"
        ><ElInput id="token-name" v-model="typed.name" maxlength="120" placeholder="Nightly report"
      /></FieldRow>
      <FieldRow label="It may" :problem="problem('rights') ?? problem('rights[0]')">
        <label v-for="right in mine" :key="right" class="SeesFields-one"
          ><input v-model="typed.rights" type="checkbox" :value="right" data-test="token-right" /> {{ RIGHT_WORDS[right] }}</label
        >
      </FieldRow>
      <FieldRow label="For" :problem="problem('advertisers')">
        <label class="SeesFields-one"><input v-model="typed.all" type="checkbox" data-test="token-all" /> all that you see</label>
        <template v-if="!typed.all">
          <label v-for="one in manifest.advertisers" :key="one.id" class="SeesFields-one"
            ><input v-model="typed.advertisers" type="checkbox" :value="one.id" /> {{ one.name }}</label
          >
        </template>
      </FieldRow>
      <FieldRow label="Good for" for="token-days" :problem="problem('days')"
        ><input id="token-days" v-model.number="typed.days" type="number" min="1" max="366" class="AccountView-days" /> days</FieldRow
      >
      <ElButton native-type="submit" :loading="isBusy" data-test="make-token">Make it</ElButton>
      <p v-if="problem('')" class="trouble" role="alert">{{ problem('') }}</p>
      <div role="status">
        <p v-if="secret" class="InviteForm-made">
          It is shown this once: <code class="InviteForm-link" data-test="token-secret">{{ secret }}</code>
        </p>
      </div>
    </form>
  </section>
</template>
