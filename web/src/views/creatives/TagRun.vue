<script setup lang="ts">
import { computed, ref } from 'vue'
import { api } from '@/api'
import BannerRun from './BannerRun.vue'
import { useSession } from '@/stores/session'

/** A tag of somebody else's as it runs, and what it reaches for. */
export interface TagRunProps {
  creative: number
  /** Of its slot, such as `300x250`. */
  size: string
}
const props = defineProps<TagRunProps>()
const emit = defineEmits<{ ran: [] }>()
const session = useSession()
const calls = ref<string[] | null>(null)
const pixels = computed(() => props.size.split('x').map(Number))

async function onRan(address: string, left: string[]) {
  calls.value = (await api.tagRan(props.creative, { address, left })).calls
  emit('ran')
}
</script>

<template>
  <BannerRun
    :open="() => api.tagSandbox(creative)"
    :ran="session.may('draft') ? onRan : null"
    :width="pixels[0]"
    :height="pixels[1]"
    :calls="calls" />
</template>
