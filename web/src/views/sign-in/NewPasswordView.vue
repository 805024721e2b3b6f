<script setup lang="ts">
import { ref } from 'vue'
import { ElButton, ElInput } from 'element-plus'
import { newPasswordSchema, parseInput } from '@tin-harbor/core/buying'
import { api } from '@/api'
import { useFormProblems } from '@/composables/use-form-problems'
import { secretInAddress } from './secret-in-address'
import FieldRow from '@/parts/FieldRow.vue'
import './sign-in.css'

/** Sets a forgotten password anew, by the link of a letter. */
const secret = secretInAddress()
const password = ref('')
const isDone = ref(false)
const { problem, isBusy, submit } = useFormProblems()
const onSubmit = () =>
  submit(async () => {
    await api.newPassword(parseInput(newPasswordSchema, { secret, password: password.value }))
    isDone.value = true
  })
</script>

<template>
  <main class="SignInView">
    <form novalidate @submit.prevent="onSubmit">
      <h1>A new password</h1>
      <p v-if="isDone" role="status">
        It is set; you are signed out everywhere. <RouterLink :to="{ name: 'sign-in' }">Sign in with it</RouterLink>
      </p>
      <template v-else>
        <FieldRow label="New password" for="password" :problem="problem('password') ?? problem('secret')" hint="At least ten letters."
          ><ElInput id="password" v-model="password" type="password" autocomplete="new-password"
        /></FieldRow>
        <ElButton type="primary" native-type="submit" :loading="isBusy" data-test="set-password">Set it</ElButton>
        <p v-if="problem('')" class="trouble" role="alert">{{ problem('') }}</p>
      </template>
    </form>
  </main>
</template>
