<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { ElInput } from 'element-plus'
import { MACROS, linkFindings } from '@tin-harbor/core/creative'
import { withTail } from '@tin-harbor/core/buying'
import type { LinkLooked } from '@tin-harbor/core/contract'
import { api } from '@/api'
import LinkSaid from './LinkSaid.vue'

/** A landing link: written, told apart, filled in with examples, looked at whether it answers. */
export interface LinkFieldProps {
  id: string
  link: string
  /** What is added to it. */
  tail: string
  disabled: boolean
  placeholder?: string
}
const props = defineProps<LinkFieldProps>()
const emit = defineEmits<{ change: [link: string] }>()

const whole = computed(() => withTail(props.link, props.tail))
const findings = computed(() => (props.link === '' ? [] : linkFindings(whole.value, { wantsClicks: false })))
const looked = shallowRef<LinkLooked | null>(null)
const isLooking = ref(false)
watch(whole, () => (looked.value = null))
async function onLook() {
  const asked = whole.value
  isLooking.value = true
  const answer = await api.lookAtLink(asked).catch((failure: Error): LinkLooked => {
    return { link: asked, problem: failure.message, address: asked, hops: [], title: '', milliseconds: 0 }
  })
  isLooking.value = false
  if (asked === whole.value) looked.value = answer
}
/** What the look says, in a sentence. */
const lookedWords = computed(() => {
  if (!looked.value) return ''
  const { problem, title, hops, address, milliseconds } = looked.value
  if (problem !== null) return `It was not reached: ${problem}`
  const led = hops.length > 1 ? `, led on ${hops.length === 2 ? 'once' : `${hops.length - 1} times`}, to ${address}` : ''
  return `It answers in ${milliseconds} ms with “${title}”${led}.`
})
/** A macro as one more parameter, called by its name. */
function onMacro(event: Event) {
  const select = event.target as HTMLSelectElement
  const name = select.value
  select.value = ''
  if (name !== '') emit('change', withTail(props.link, `${name.toLowerCase()}=\${${name}}`))
}
</script>

<template>
  <div class="LinkField">
    <ElInput
      :id="id"
      :model-value="link"
      :disabled="disabled"
      :placeholder="placeholder ?? 'https://'"
      @update:model-value="(typed: string) => $emit('change', typed.trim())" />
    <template v-if="link !== ''">
      <LinkSaid :link="link" :tail="tail" />
      <p v-for="one in findings" :key="one.says" class="small" :class="{ trouble: one.severity === 'stops' }">
        {{ one.says }}
        <button v-if="one.instead && tail === '' && !disabled" class="plain" type="button" @click="$emit('change', one.instead)">
          write it so
        </button>
      </p>
      <p class="LinkField-acts small">
        <button class="plain" type="button" :disabled="isLooking" data-test="look-at-link" @click="onLook">
          {{ isLooking ? 'Looking …' : 'Does it answer?' }}
        </button>
        <label v-if="!disabled"
          >put in
          <select aria-label="Put a macro in" data-test="put-macro" @change="onMacro">
            <option value="">a macro …</option>
            <option v-for="{ name, what } in MACROS" :key="name" :value="name">{{ name }}: {{ what }}</option>
          </select></label
        >
        <span v-if="looked" :class="{ trouble: looked.problem !== null }" role="status" data-test="link-looked">{{ lookedWords }}</span>
      </p>
    </template>
  </div>
</template>

<style>
.LinkField-acts {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: baseline;
}

.LinkField-acts select {
  width: 130px;
}
</style>
