<script setup lang="ts">
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { ElButton, ElInput } from 'element-plus'
import type { FileView } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { useAttempt } from '@/composables/use-attempt'
import { newFeed } from '@/views/feeds/use-feed'

/** Begins a feed: by its address alone, the rest is guessed when it is read. */
export interface FeedFormProps {
  advertiser: { id: number; name: string }
  files: readonly FileView[]
  /** How many feeds there are. */
  known: number
}
const props = defineProps<FeedFormProps>()
defineEmits<{ close: [] }>()
const router = useRouter()
const address = ref('')
const { isBusy, messages, attempt } = useAttempt()

const onRead = () =>
  attempt(async () => {
    const { id, name } = props.advertiser
    const feed = await api.newFeed(id, newFeed(name, address.value.trim(), props.known + 1, props.files))
    await router.push({ name: 'feed', params: { feedId: feed.id } })
  })
</script>

<template>
  <aside class="FileNote" aria-label="A product feed">
    <header>
      <h2>A product feed</h2>
      <button class="plain" type="button" aria-label="Close" @click="$emit('close')">✕</button>
    </header>
    <p class="small">
      A shop’s list of what it sells, as RSS, Atom, other XML or CSV. Each item can be an ad; it is read again at each market hour, and ads
      of what is out of stock or gone stop.
    </p>
    <form @submit.prevent="onRead">
      <label>Its address <ElInput v-model="address" size="small" placeholder="https://" data-test="new-feed-address" /></label>
      <p v-for="message in messages" :key="message" class="trouble small" role="alert">{{ message }}</p>
      <p class="FileNote-buttons">
        <ElButton size="small" native-type="submit" :loading="isBusy" :disabled="address.trim() === ''" data-test="add-feed"
          >Read it</ElButton
        >
      </p>
    </form>
  </aside>
</template>
