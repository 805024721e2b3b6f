<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { ElButton, ElInput } from 'element-plus'
import { ROLE_WORDS, acceptSchema, parseInput } from '@tin-harbor/core/buying'
import type { InvitationOpened } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { useFormProblems } from '@/composables/use-form-problems'
import { secretInAddress } from './secret-in-address'
import FieldRow from '@/parts/FieldRow.vue'
import { useSession } from '@/stores/session'
import './sign-in.css'

/** What an invitation says, and the name and password with which somebody comes in by it. */
const router = useRouter()
const session = useSession()
const secret = secretInAddress()
const opened = ref<InvitationOpened | null>(null)
const error = ref<string | null>(null)
const typed = ref({ name: '', password: '' })
const { problem, isBusy, submit } = useFormProblems()
onMounted(async () => {
  try {
    opened.value = await api.openInvitation(secret)
  } catch (failure) {
    error.value = (failure as Error).message
  }
})
const onSubmit = () =>
  submit(async () => {
    await api.acceptInvitation(parseInput(acceptSchema, { secret, ...typed.value }))
    await session.load()
    await router.push({ name: 'market' })
  })
</script>

<template>
  <main class="SignInView">
    <form novalidate @submit.prevent="onSubmit">
      <h1>You are asked in</h1>
      <p v-if="error" class="trouble" role="alert">{{ error }}</p>
      <p v-else-if="!opened" class="quiet">Reading what it says …</p>
      <template v-else>
        <p class="quiet" data-test="invitation">
          {{ opened.organisation }} asks {{ opened.email }} in at Tin Harbor: as {{ opened.role }}, who {{ ROLE_WORDS[opened.role] }}.
        </p>
        <FieldRow label="Your name" for="name" :problem="problem('name')"
          ><ElInput id="name" v-model="typed.name" autocomplete="name" maxlength="120"
        /></FieldRow>
        <FieldRow label="A password" for="password" :problem="problem('password')" hint="At least ten letters."
          ><ElInput id="password" v-model="typed.password" type="password" autocomplete="new-password"
        /></FieldRow>
        <ElButton type="primary" native-type="submit" :loading="isBusy" data-test="accept">Come in</ElButton>
        <p v-if="problem('')" class="trouble" role="alert">{{ problem('') }}</p>
      </template>
    </form>
  </main>
</template>
