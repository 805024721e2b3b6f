<script setup lang="ts">
import { ref } from 'vue'
import { ElButton, ElInput } from 'element-plus'
import { invitationSchema, parseInput, plainEmail, type Role } from '@tin-harbor/core/buying'
import type { InvitationMade, TeamView } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { useFormProblems } from '@/composables/use-form-problems'
import FieldRow from '@/parts/FieldRow.vue'
import SeesFields from './SeesFields.vue'

/** Asks somebody in; the link is shown once. */
export interface InviteFormProps {
  team: TeamView
}
defineProps<InviteFormProps>()
const emit = defineEmits<{ invited: [] }>()
const email = ref('')
const sees = ref({ role: 'trader' as Role, allAdvertisers: true, advertisers: [] as number[] })
const made = ref<(InvitationMade & { email: string }) | null>(null)
const { problem, isBusy, submit } = useFormProblems()
const onSubmit = () =>
  submit(async () => {
    made.value = null
    const asked = parseInput(invitationSchema, { email: email.value, ...sees.value })
    made.value = { ...(await api.invite(asked)), email: plainEmail(asked.email) }
    email.value = ''
    emit('invited')
  })
</script>

<template>
  <form novalidate @submit.prevent="onSubmit">
    <FieldRow label="E-mail" for="invite-email" :problem="problem('email')"
      ><ElInput id="invite-email" v-model="email" type="email" autocomplete="off" maxlength="190"
    /></FieldRow>
    <SeesFields id="invite" v-model="sees" :advertisers="team.advertisers" :problem="problem" />
    <ElButton type="primary" native-type="submit" :loading="isBusy" data-test="invite">Ask in</ElButton>
    <p v-if="problem('')" class="trouble" role="alert">{{ problem('') }}</p>
    <div role="status">
      <p v-if="made" class="InviteForm-made" data-test="invited">
        {{ made.mailed ? `A letter went to ${made.email}.` : `No letter could be sent to ${made.email}.` }} This link is good once, for
        seven days, and is shown this once: <a :href="made.link" class="InviteForm-link">{{ made.link }}</a>
        <template v-if="team.outbox">
          <br />The mail service is a stand-in: <a :href="team.outbox" target="_blank" rel="noopener">its letters</a>.
        </template>
      </p>
    </div>
  </form>
</template>
