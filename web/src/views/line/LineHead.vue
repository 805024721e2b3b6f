<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import type { HistoryEntry, LineView } from '@tin-harbor/core/contract'
import { schemeName } from '@tin-harbor/core/wording'
import { ApiError, api } from '@/api'
import { useLineEdit } from '@/composables/line-edit'
import { useManifest } from '@/stores/manifest'
import { fieldName } from './field-names'
import { marketTime } from '@/composables/formats'

/** What can be done with a line as a whole: copies, templates, tags, another campaign, and what it was copied from. */
export interface LineHeadProps {
  line: LineView
}
const props = defineProps<LineHeadProps>()
const emit = defineEmits<{ changed: [line: LineView]; delete: [] }>()
const { draft, disabled } = useLineEdit()
const manifest = useManifest()
const router = useRouter()

const error = ref<string | null>(null)
const asks = ref<'copy' | 'move' | 'tags' | 'delete' | 'differs' | 'history' | null>(null)
const copyName = ref('')
const copyTo = ref<number | null>(null)
const tags = ref('')
const campaigns = computed(() => manifest.campaigns.filter((campaign) => campaign.advertiserId === props.line.advertiserId))
const isDraft = computed(() => props.line.state === 'draft' && !props.line.inForce)

function onAsk(what: NonNullable<typeof asks.value>) {
  error.value = null
  asks.value = asks.value === what ? null : what
  if (what === 'copy') {
    // A copy is named by the scheme; where that is its own name already it is said to be a copy.
    copyName.value = schemeName(draft.value) === draft.value.name ? `${draft.value.name}, copy` : schemeName(draft.value)
    copyTo.value = props.line.campaignId
  }
  if (what === 'move') copyTo.value = campaigns.value.find((campaign) => campaign.id !== props.line.campaignId)?.id ?? null
  if (what === 'history' && asks.value === what) void attemptHistory()
  if (what === 'tags') tags.value = props.line.tags.join(', ')
}
const entries = shallowRef<HistoryEntry[]>([])
const clock = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })
/** By the desk's own clock, for those who ask. */
const deskTime = (seconds: number) => `${clock.format(new Date(seconds * 1000))} by the desk’s clock`
async function attemptHistory() {
  try {
    entries.value = (await api.history(props.line.id)).entries
  } catch (failure) {
    error.value = (failure as ApiError).message
  }
}
async function attempt(what: () => Promise<void>) {
  error.value = null
  try {
    await what()
    asks.value = null
    await manifest.load()
  } catch (failure) {
    error.value = (failure as ApiError).message
  }
}
const onCopy = () =>
  attempt(async () => {
    const copy = await api.copyLine(props.line.id, copyName.value, copyTo.value)
    await router.push({ name: 'line', params: { lineId: copy.id } })
  })
const onMove = () =>
  attempt(async () => {
    if (copyTo.value !== null) emit('changed', await api.moveToCampaign(props.line.id, copyTo.value))
  })
const onTags = () =>
  attempt(async () =>
    emit(
      'changed',
      await api.labelLine(props.line.id, {
        tags: tags.value
          .split(',')
          .map((tag) => tag.trim())
          .filter(Boolean)
      })
    )
  )
const onTemplate = () => attempt(async () => emit('changed', await api.labelLine(props.line.id, { template: !props.line.template })))
</script>

<template>
  <div class="LineHead">
    <p>
      <span v-for="tag in line.tags" :key="tag" class="LineHead-tag">{{ tag }}</span>
      <template v-if="!disabled">
        <button class="plain" type="button" :aria-expanded="asks === 'copy'" data-test="copy" @click="onAsk('copy')">Copy</button>
        <button v-if="isDraft && campaigns.length > 1" class="plain" type="button" :aria-expanded="asks === 'move'" @click="onAsk('move')">
          To another campaign
        </button>
        <button class="plain" type="button" :aria-expanded="asks === 'tags'" data-test="tags" @click="onAsk('tags')">Tags</button>
        <button v-if="isDraft" class="plain" type="button" @click="onTemplate">
          {{ line.template ? 'No longer a template' : 'Keep as a template' }}
        </button>
        <button v-if="isDraft" class="plain" type="button" :aria-expanded="asks === 'delete'" @click="onAsk('delete')">
          Delete this draft
        </button>
      </template>
      <button class="plain" type="button" :aria-expanded="asks === 'history'" data-test="history" @click="onAsk('history')">History</button>
      <button v-if="line.copiedFrom" class="plain" type="button" :aria-expanded="asks === 'differs'" @click="onAsk('differs')">
        {{
          line.copiedFrom.differs.length === 0
            ? 'the same as'
            : `${line.copiedFrom.differs.length} ${line.copiedFrom.differs.length === 1 ? 'difference' : 'differences'} from`
        }}
        {{ line.copiedFrom.name }}
      </button>
    </p>
    <form v-if="asks === 'copy'" @submit.prevent="onCopy">
      <label>called <input v-model="copyName" maxlength="120" data-test="copy-name" /></label>
      <label
        >in
        <select v-model="copyTo">
          <option v-for="campaign in campaigns" :key="campaign.id" :value="campaign.id">{{ campaign.name }}</option>
        </select></label
      >
      <button class="plain" type="submit" data-test="copy-now">Copy it, ads and all</button>
    </form>
    <form v-else-if="asks === 'move'" @submit.prevent="onMove">
      <label
        >to
        <select v-model="copyTo">
          <option v-for="campaign in campaigns.filter((one) => one.id !== line.campaignId)" :key="campaign.id" :value="campaign.id">
            {{ campaign.name }}
          </option>
        </select></label
      >
      <button class="plain" type="submit">Move it</button>
    </form>
    <form v-else-if="asks === 'tags'" @submit.prevent="onTags">
      <label>tags, parted by commas <input v-model="tags" data-test="tag-names" /></label>
      <button class="plain" type="submit">Set</button>
    </form>
    <p v-else-if="asks === 'delete'" role="alert">
      {{ line.draft.name }} and its {{ line.ads.length }} {{ line.ads.length === 1 ? 'ad' : 'ads' }} will be gone.
      <button class="plain" type="button" data-test="delete-now" @click="$emit('delete')">Delete it</button>{{ ' '
      }}<button class="plain" type="button" @click="asks = null">Keep it</button>
    </p>
    <ul v-else-if="asks === 'differs' && line.copiedFrom">
      <li v-for="change in line.copiedFrom.differs" :key="change.field">
        {{ fieldName(change.field) }}: {{ change.before }} there, <b>{{ change.after }}</b> here
      </li>
    </ul>
    <ul v-else-if="asks === 'history'" class="LineHead-history" data-test="entries">
      <li v-for="entry in entries" :key="entry.id">
        <span class="quiet" :title="deskTime(entry.at)"
          >{{ entry.hour === null ? 'before' : marketTime(entry.hour) }}, {{ entry.who }}:</span
        >
        {{ entry.action
        }}<template v-for="change in entry.changes" :key="change.field"
          >; {{ fieldName(change.field) }}: {{ change.before }} <span aria-label="becomes">→</span> <b>{{ change.after }}</b></template
        >
      </li>
      <li v-if="entries.length === 0" class="quiet">Nothing is noted yet.</li>
    </ul>
    <p v-if="error" class="trouble" role="alert">{{ error }}</p>
  </div>
</template>

<style>
.LineHead {
  font-size: 12px;
}

.LineHead p,
.LineHead form {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  align-items: baseline;
}

.LineHead ul {
  margin: 3px 0;
  padding-left: 16px;
}

.LineHead-history {
  max-height: 190px;
  overflow: auto;
}

.LineHead-tag {
  padding: 0 6px;
  border: 1px solid var(--rule);
  color: var(--ink-2);
}

.LineHead form input {
  width: 260px;
  border: 1px solid var(--rule);
}
</style>
