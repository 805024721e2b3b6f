<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { ElButton, ElInput } from 'element-plus'
import { useTimeoutFn } from '@vueuse/core'
import type { LinkChange } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { useAttempt } from '@/composables/use-attempt'
import { useManifest } from '@/stores/manifest'

/** Changes the links of many lines at once: what is looked for, what stands in its place, and each link before and after. */
export interface LinksReplaceProps {
  campaign: number
}
const props = defineProps<LinksReplaceProps>()
const emit = defineEmits<{ close: [] }>()
const manifest = useManifest()

const LOOK_AFTER_MS = 300
const find = ref('')
const replace = ref('')
const changes = shallowRef<LinkChange[]>([])
const left = ref<ReadonlySet<number>>(new Set())
const done = ref('')
const { isBusy, messages, attempt } = useAttempt()
let turn = 0
async function look() {
  const mine = ++turn
  await attempt(async () => {
    const found = find.value === '' ? [] : await api.changeLinks(props.campaign, { find: find.value, replace: replace.value, lines: null })
    if (mine === turn) changes.value = found
  })
}
const later = useTimeoutFn(() => void look(), LOOK_AFTER_MS, { immediate: false })
watch([find, replace], () => {
  done.value = ''
  later.stop()
  later.start()
})
const wanted = computed(() => changes.value.filter(({ line }) => !left.value.has(line)))
const lines = computed(() => new Map(wanted.value.map(({ line, version }) => [line, version])))
function onLeave(line: number, isIn: boolean) {
  const next = new Set(left.value)
  if (isIn) next.delete(line)
  else next.add(line)
  left.value = next
}
const onApply = () =>
  attempt(async () => {
    const asked = [...lines.value].map(([line, version]) => ({ line, version }))
    const links = wanted.value.length
    await api.changeLinks(props.campaign, { find: find.value, replace: replace.value, lines: asked })
    done.value = `${links} ${links === 1 ? 'link is' : 'links are'} changed; on lines that are live they wait on the slip.`
    changes.value = []
    await manifest.load()
  })
</script>

<template>
  <section class="LinksReplace" aria-label="Links of many lines">
    <p class="LinksReplace-typed">
      <label>In the links of its lines and ads <ElInput v-model="find" size="small" data-test="links-find" /></label>
      <label>becomes <ElInput v-model="replace" size="small" data-test="links-replace" /></label>
      <button class="plain small" type="button" @click="emit('close')">Done</button>
    </p>
    <table v-if="changes.length > 0">
      <thead>
        <tr>
          <th scope="col"><span class="visually-hidden">changed</span></th>
          <th scope="col">line</th>
          <th scope="col">before and after</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in changes" :key="`${one.line} ${one.ad}`">
          <td>
            <input
              type="checkbox"
              :checked="!left.has(one.line)"
              :aria-label="`Change ${one.name}`"
              @change="onLeave(one.line, ($event.target as HTMLInputElement).checked)" />
          </td>
          <th scope="row">{{ one.name }}{{ one.ad === null ? '' : `, ad ${one.ad}` }}</th>
          <td class="LinksReplace-links">
            <del>{{ one.before }}</del><br /><ins>{{ one.after }}</ins>
            <em v-if="one.problem" class="trouble small">{{ one.problem }}</em>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="find !== '' && messages.length === 0 && !isBusy && done === ''" class="quiet small">No link has that in it.</p>
    <p v-for="message in messages" :key="message" class="trouble small" role="alert">{{ message }}</p>
    <p>
      <ElButton
        v-if="changes.length > 0"
        type="primary"
        size="small"
        :loading="isBusy"
        :disabled="wanted.length === 0"
        data-test="change-links"
        @click="onApply"
        >Change {{ wanted.length }} {{ wanted.length === 1 ? 'link' : 'links' }}</ElButton
      >
      <span v-if="done" role="status" data-test="links-changed">{{ done }}</span>
    </p>
  </section>
</template>

<style>
.LinksReplace {
  margin: 8px 0;
  padding: 8px 12px;
  border-left: 3px solid var(--brass);
  background: var(--field);
  accent-color: var(--brass);
}

.LinksReplace-typed {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  align-items: end;
}

.LinksReplace-typed label {
  flex: 1 1 260px;
}

.LinksReplace table {
  width: 100%;
  margin: 6px 0;
  border-collapse: collapse;
}

.LinksReplace th,
.LinksReplace td {
  padding: 3px 8px 3px 0;
  border-bottom: 1px solid var(--rule-2);
  text-align: left;
  vertical-align: top;
  font-weight: 500;
}

.LinksReplace-links {
  overflow-wrap: anywhere;
}

.LinksReplace-links ins {
  text-decoration: none;
  font-weight: 600;
}
</style>
