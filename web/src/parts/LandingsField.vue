<script setup lang="ts">
import { ref } from 'vue'
import { ElOption, ElSelect } from 'element-plus'
import 'element-plus/theme-chalk/el-select.css'
import 'element-plus/theme-chalk/el-option.css'
import 'element-plus/theme-chalk/el-tag.css'
import 'element-plus/theme-chalk/el-popper.css'
import 'element-plus/theme-chalk/el-scrollbar.css'
import { isLandingLink, landingWords, type Landing } from '@tin-harbor/core/buying'
import { linkFindings } from '@tin-harbor/core/creative'
import { COUNTRIES } from '@tin-harbor/core/places'
import { DEVICE_TYPES } from '@tin-harbor/core/taxonomy'

/** Links for people of some countries or on some classes of device: the closest one counts. */
export interface LandingsFieldProps {
  /** Begins the ids and names of its fields. */
  id: string
  landings: readonly Landing[]
  disabled: boolean
  /** What is wrong, by the place of a link: `2.link`. */
  problem?: (path: string) => string | undefined
}
const props = defineProps<LandingsFieldProps>()
const emit = defineEmits<{ change: [landings: Landing[]] }>()

const set = (n: number, change: Partial<Landing>) =>
  emit(
    'change',
    props.landings.map((one, m) => (m === n ? { ...one, ...change } : one))
  )
/** One that is being written: it is among the others once it has a link that is one. */
const fresh = ref('')
const isAdding = ref(false)
function onFresh(typed: string) {
  fresh.value = typed.trim()
  if (!isLandingLink(fresh.value)) return
  emit('change', [...props.landings, { countries: [], devices: [], link: fresh.value }])
  isAdding.value = false
  fresh.value = ''
}
const takeOut = (n: number) =>
  emit(
    'change',
    props.landings.filter((_, m) => m !== n)
  )
const wrong = (n: number) =>
  props.problem?.(`[${n}].link`) ??
  (props.landings[n].link === '' ? undefined : linkFindings(props.landings[n].link, { wantsClicks: false })[0]?.says)
</script>

<template>
  <div class="LandingsField">
    <div v-for="(one, n) in landings" :key="n" class="LandingsField-row" role="group" :aria-label="`Link for ${landingWords(one)}`">
      <ElSelect
        :model-value="one.countries"
        multiple
        filterable
        collapse-tags
        :max-collapse-tags="3"
        :disabled="disabled"
        placeholder="everywhere"
        aria-label="Countries"
        @update:model-value="(countries: string[]) => set(n, { countries })"
        ><ElOption v-for="{ code, name } in COUNTRIES" :key="code" :value="code" :label="name"
      /></ElSelect>
      <ElSelect
        :model-value="one.devices"
        multiple
        collapse-tags
        :max-collapse-tags="2"
        :disabled="disabled"
        placeholder="any device"
        aria-label="Devices"
        @update:model-value="(devices: Landing['devices']) => set(n, { devices })"
        ><ElOption v-for="device in DEVICE_TYPES" :key="device" :value="device" :label="device"
      /></ElSelect>
      <button
        v-if="!disabled"
        class="plain small"
        type="button"
        :aria-label="`Take the link for ${landingWords(one)} out`"
        @click="takeOut(n)">
        take out
      </button>
      <input
        :id="`${id}-${n}`"
        :value="one.link"
        :disabled="disabled"
        placeholder="https://"
        :aria-label="`Link for ${landingWords(one)}`"
        :data-test="`landing-${n}`"
        @input="set(n, { link: ($event.target as HTMLInputElement).value.trim() })" />
      <p v-if="wrong(n)" class="trouble small">{{ wrong(n) }}</p>
    </div>
    <input
      v-if="isAdding && !disabled"
      :id="`${id}-fresh`"
      :value="fresh"
      placeholder="https://"
      aria-label="Another link"
      :data-test="`${id}-fresh`"
      @change="onFresh(($event.target as HTMLInputElement).value)" />
    <p v-if="isAdding && fresh !== ''" class="trouble small">A link is a web address such as https://shop.example/page.</p>
    <button v-if="!disabled && !isAdding" class="plain small" type="button" :data-test="`${id}-add`" @click="isAdding = true">
      {{ landings.length === 0 ? 'a page for some countries or devices' : 'and one for others' }}
    </button>
  </div>
</template>

<style>
.LandingsField-row {
  display: grid;
  grid-template-columns: 230px 190px max-content;
  gap: 3px 8px;
  align-items: center;
  justify-content: start;
  margin-bottom: 6px;
  padding-bottom: 6px;
  border-bottom: 1px dotted var(--rule);
}

.LandingsField-row > input,
.LandingsField-row > p {
  grid-column: 1 / -1;
}

.LandingsField input {
  width: 100%;
}
</style>
