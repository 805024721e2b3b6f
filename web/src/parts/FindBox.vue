<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import { useEventListener } from '@vueuse/core'
import { useRouter } from 'vue-router'
import { allCommands, type Command } from '@/composables/commands'
import { useManifest } from '@/stores/manifest'

/** Ctrl K finds any object or command; ? lists the keys of the screen. */
const router = useRouter()
const manifest = useManifest()
const open = ref<'find' | 'keys' | null>(null)
const typed = ref('')
const active = ref(0)
const input = useTemplateRef('input')
let before: HTMLElement | null = null

const go =
  (name: string, params: Record<string, number> = {}) =>
  () =>
    void router.push({ name, params })
const everything = computed<(Command & { kind: string })[]>(() =>
  open.value === null
    ? []
    : [
        ...allCommands().map((command) => ({ ...command, kind: 'do' })),
        ...[
          ['market', 'Market'],
          ['lists', 'Lists'],
          ['deals', 'Deals'],
          ['campaigns', 'Campaigns'],
          ['reports', 'Reports'],
          ['words', 'Words: what they mean']
        ].map(([name, words]) => ({ name: words, kind: 'view', does: go(name) })),
        ...manifest.lines.map((line) => ({
          name: `${line.name}, ${line.code}${line.tags.length > 0 ? `, ${line.tags.join(', ')}` : ''}`,
          kind: 'line',
          does: go('line', { lineId: line.id })
        })),
        ...manifest.campaigns.map((campaign) => ({
          name: `${campaign.name}, ${campaign.code}`,
          kind: 'campaign',
          does: go('campaign', { campaignId: campaign.id })
        })),
        ...manifest.advertisers.map((advertiser) => ({
          name: `New campaign for ${advertiser.name}`,
          kind: 'do',
          does: () => void router.push({ name: 'new-campaign', query: { advertiser: advertiser.id } })
        }))
      ]
)
/** All that is typed must be found, in any order. */
const found = computed(() => {
  const parts = typed.value.toLowerCase().split(/\s+/).filter(Boolean)
  return everything.value.filter(({ name, kind }) => parts.every((part) => `${name} ${kind}`.toLowerCase().includes(part))).slice(0, 40)
})
watch(typed, () => (active.value = 0))

const KEYS = [
  ['Ctrl K', 'find a line, a campaign, a view or a command'],
  ['?', 'list these keys'],
  ['Esc', 'close what is open'],
  ['↑ ↓', 'go through the manifest, the clauses, a list of values'],
  ['Enter', 'open or choose; Shift Enter in a list of values takes only this one'],
  ['Ctrl Z, Ctrl Shift Z', 'undo and redo an edit of a line'],
  ['← →', 'move the mark of the bid ladder; with Shift ten steps']
] as const

function show(what: typeof open.value) {
  if (open.value === null) before = document.activeElement as HTMLElement | null
  open.value = what
  typed.value = ''
  active.value = 0
  void nextTick(() => input.value?.focus())
}
function close() {
  open.value = null
  before?.focus()
}
function onWindowKey(event: KeyboardEvent) {
  const { target, key } = event
  if ((event.ctrlKey || event.metaKey) && key.toLowerCase() === 'k') {
    event.preventDefault()
    if (open.value === 'find') close()
    else show('find')
  } else if (
    key === '?' &&
    !(target instanceof HTMLInputElement || target instanceof HTMLTextAreaElement || target instanceof HTMLSelectElement)
  ) {
    event.preventDefault()
    show('keys')
  } else if (key === 'Escape' && open.value !== null) close()
}
function onKey(event: KeyboardEvent) {
  const by = { ArrowDown: 1, ArrowUp: -1 }[event.key]
  if (by !== undefined) {
    event.preventDefault()
    active.value = Math.min(found.value.length - 1, Math.max(0, active.value + by))
  } else if (event.key === 'Enter') {
    event.preventDefault()
    run(found.value[active.value])
  }
}
function run(command: Command | undefined) {
  if (!command) return
  open.value = null
  command.does()
}
useEventListener(window, 'keydown', onWindowKey)
</script>

<template>
  <div v-if="open" class="FindBox-ground" @click.self="close">
    <div
      class="FindBox"
      role="dialog"
      :aria-label="open === 'find' ? 'Find an object or a command' : 'Keys of this screen'"
      aria-modal="true">
      <template v-if="open === 'find'">
        <input
          ref="input"
          v-model="typed"
          type="search"
          aria-label="Find"
          placeholder="a line, a campaign, a view, a command"
          aria-controls="found"
          :aria-activedescendant="`found-${active}`"
          data-test="find"
          @keydown="onKey" />
        <ul id="found" role="listbox" aria-label="Found">
          <li
            v-for="(one, n) in found"
            :id="`found-${n}`"
            :key="one.kind + one.name"
            role="option"
            :aria-selected="n === active"
            :class="{ 'is-at': n === active }"
            @click="run(one)">
            <span class="quiet">{{ one.kind }}</span> {{ one.name }} <kbd v-if="one.keys">{{ one.keys }}</kbd>
          </li>
          <li v-if="found.length === 0" class="quiet">Nothing is called that.</li>
        </ul>
      </template>
      <template v-else>
        <h2>Keys</h2>
        <dl>
          <div v-for="[keys, does] in KEYS" :key="keys">
            <dt>
              <kbd>{{ keys }}</kbd>
            </dt>
            <dd>{{ does }}</dd>
          </div>
          <div v-for="command in allCommands().filter((one) => one.keys)" :key="command.name">
            <dt>
              <kbd>{{ command.keys }}</kbd>
            </dt>
            <dd>{{ command.name }}</dd>
          </div>
        </dl>
        <p><RouterLink :to="{ name: 'words' }" @click="close">What words mean here</RouterLink></p>
        <button ref="input" class="plain" type="button" @click="close">Close</button>
      </template>
    </div>
  </div>
</template>

<style>
.FindBox-ground {
  position: fixed;
  z-index: 3000;
  inset: 0;
  background: var(--shade);
}

.FindBox {
  width: 560px;
  max-height: 70vh;
  margin: 90px auto 0;
  padding: 12px 14px;
  overflow: auto;
  border: 1px solid var(--ink);
  background: var(--paper);
}

.FindBox input {
  width: 100%;
  padding: 6px 8px;
  border: 1px solid var(--rule);
  background: var(--field);
}

.FindBox ul {
  margin: 8px 0 0;
  padding: 0;
  list-style: none;
}

.FindBox li {
  display: grid;
  grid-template-columns: 74px 1fr auto;
  padding: 4px 2px;
  border-bottom: 1px solid var(--rule-2);
  cursor: pointer;
}

.FindBox li.is-at {
  background: var(--hover);
}

.FindBox kbd {
  color: var(--brass-text);
  font: 12px var(--sans);
}

.FindBox dl > div {
  display: flex;
  gap: 14px;
  padding: 3px 0;
}

.FindBox dt {
  flex: 0 0 140px;
}

.FindBox dd {
  margin: 0;
}
</style>
