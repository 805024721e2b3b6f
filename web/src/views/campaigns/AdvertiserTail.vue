<script setup lang="ts">
import { ref } from 'vue'
import { ElButton } from 'element-plus'
import type { AdvertiserView } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { useAttempt } from '@/composables/use-attempt'
import TailField from '@/parts/TailField.vue'
import { useManifest } from '@/stores/manifest'
import { useSession } from '@/stores/session'

/** What is added to every link of an advertiser, before the tail of each campaign. */
export interface AdvertiserTailProps {
  advertiser: AdvertiserView
}
const props = defineProps<AdvertiserTailProps>()
const manifest = useManifest()
const session = useSession()
const isOpen = ref(false)
const tail = ref(props.advertiser.linkTail)
const { isBusy, error, attempt } = useAttempt()

async function onSave() {
  const { id, version } = props.advertiser
  const isDone = await attempt(async () => {
    await api.saveTail(id, version, tail.value)
    await manifest.load()
  })
  if (isDone) isOpen.value = false
}
</script>

<template>
  <div class="AdvertiserTail small">
    <p>
      <template v-if="advertiser.linkTail">Before it stands that of {{ advertiser.name }}: {{ advertiser.linkTail }}</template>
      <template v-else>{{ advertiser.name }} adds nothing of its own.</template>{{ ' ' }}
      <button
        v-if="session.may('draft')"
        class="plain"
        type="button"
        :aria-expanded="isOpen"
        data-test="advertiser-tail"
        @click="isOpen = !isOpen">
        {{ isOpen ? 'leave it' : 'change it for all its campaigns' }}
      </button>
    </p>
    <template v-if="isOpen">
      <TailField id="advertiser-tail" :tail="tail" @change="(typed) => (tail = typed)" />
      <ElButton size="small" :loading="isBusy" data-test="save-advertiser-tail" @click="onSave">Save it for {{ advertiser.name }}</ElButton>
      <p v-if="error" class="trouble" role="alert">{{ error }}</p>
    </template>
  </div>
</template>
