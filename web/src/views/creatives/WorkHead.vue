<script setup lang="ts">
import { useRouter } from 'vue-router'
import { useAttempt } from '@/composables/use-attempt'
import { useManifest } from '@/stores/manifest'

/** The head of what ads are made in, a matrix, a plate or a feed: whose it is, its name, what it is in a sentence, and that it goes. */
export interface WorkHeadProps {
  advertiser: number
  /** What it is called: matrix, plate or feed. */
  what: string
  name: string
  most: number
  disabled: boolean
  /** Of what was made of it, which stays. */
  stays: string
  remove: () => Promise<unknown>
}
const props = defineProps<WorkHeadProps>()
defineEmits<{ rename: [name: string] }>()
const router = useRouter()
const manifest = useManifest()
const { error, attempt } = useAttempt()

async function onDelete() {
  const { advertiser, what, stays, remove } = props
  if (!window.confirm(`Delete this ${what}? ${stays} stay.`)) return
  if (await attempt(remove)) await router.push({ name: 'creatives', query: { advertiser: String(advertiser) } })
}
</script>

<template>
  <header class="WorkHead">
    <p class="quiet">
      <RouterLink :to="{ name: 'creatives', query: { advertiser: String(advertiser) } }">Creatives</RouterLink> of
      {{ manifest.advertiserOf(advertiser)?.name }}
    </p>
    <h1>
      <input
        class="WorkHead-name"
        :value="name"
        :maxlength="most"
        :aria-label="`Name of the ${what}`"
        :disabled="disabled"
        @input="$emit('rename', ($event.target as HTMLInputElement).value)" />
    </h1>
    <slot />
    <button v-if="!disabled" class="plain small" type="button" @click="onDelete">Delete</button>
    <p v-if="error" class="trouble small WorkHead-error" role="alert">{{ error }}</p>
  </header>
</template>

<style>
.WorkHead {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  align-items: baseline;
}

.WorkHead-name {
  width: 260px;
  border: 0;
  border-bottom: 1px solid var(--rule);
  background: none;
  color: var(--ink);
  font: 600 21px/1.2 var(--serif);
}

.WorkHead-sentence {
  flex: 1;
  min-width: 200px;
  font: 15px/1.5 var(--serif);
}

.WorkHead-error {
  flex-basis: 100%;
}

/* The page below it fills the window. */
.WorkPage {
  display: flex;
  flex-direction: column;
  height: 100%;
  padding: 12px 20px 0;
  background: var(--paper);
  accent-color: var(--brass);
}
</style>
