<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { ElButton, ElInput, ElOption, ElSelect } from 'element-plus'
import 'element-plus/theme-chalk/el-select.css'
import 'element-plus/theme-chalk/el-option.css'
import 'element-plus/theme-chalk/el-popper.css'
import 'element-plus/theme-chalk/el-scrollbar.css'
import { GOALS, TARGET_MEASURES, InputError, campaignSchema, parseInput, type CampaignDraft, type Landing } from '@tin-harbor/core/buying'
import type { CampaignView, OfferPage } from '@tin-harbor/core/contract'
import { ApiError, api } from '@/api'
import CapFields from '@/parts/CapFields.vue'
import DayField from '@/parts/DayField.vue'
import FieldRow from '@/parts/FieldRow.vue'
import LandingsField from '@/parts/LandingsField.vue'
import LimitFields from '@/parts/LimitFields.vue'
import MoneyField from '@/parts/MoneyField.vue'
import TailField from '@/parts/TailField.vue'
import { useManifest } from '@/stores/manifest'
import { useSession } from '@/stores/session'
import AdvertiserTail from './AdvertiserTail.vue'

type Typed = Omit<CampaignDraft, 'goal' | 'flight' | 'caps' | 'linkTail' | 'note' | 'target' | 'offerId' | 'landings'> & {
  offerId: number | null
  landings: Landing[]
  target: { measure: string; value: number | null }
  goal: string
  linkTail: string
  note: string
  caps: NonNullable<CampaignDraft['caps']>
  flight: { startDate: string | null; endDate: string | null }
}

const route = useRoute()
const router = useRouter()
const manifest = useManifest()
const session = useSession()

const campaignId = computed(() => (route.params.campaignId ? Number(route.params.campaignId) : null))
const advertiserId = ref<number | null>(Number(route.query.advertiser) || null)
const typed = ref<Typed>({
  name: '',
  goal: '',
  flight: { startDate: null, endDate: null },
  budget: { totalMicros: null, dailyMicros: null },
  caps: [],
  target: { measure: '', value: null },
  linkTail: '',
  note: '',
  offerId: null,
  landings: []
})
const current = shallowRef<CampaignView | null>(null)
const whose = computed(() => manifest.advertiserOf(current.value?.advertiserId ?? advertiserId.value ?? 0))
const problems = ref<Record<string, string>>({})
const unreadable = ref<Record<string, string>>({})
const isBusy = ref(false)
const isLive = computed(() =>
  manifest.lines.some((line) => line.campaignId === campaignId.value && ['live', 'cleared'].includes(line.state))
)

/** The form is there once the campaign is: what is typed before would be written over, and saved as a new one. */
const isReady = computed(() => campaignId.value === null || current.value?.id === campaignId.value)
watch(
  campaignId,
  async (id) => {
    current.value = null
    if (id === null) return
    try {
      const { campaign } = await api.campaign(id)
      if (id !== campaignId.value) return
      current.value = campaign
      const { name, goal, flight, budget, caps, target, linkTail = '', note = '', offerId = null, landings = [] } = campaign
      typed.value = {
        name,
        goal,
        flight: { ...flight },
        budget: { ...budget },
        caps: (caps ?? []).map((cap) => ({ ...cap })),
        target: { measure: target?.measure ?? '', value: target?.value ?? null },
        linkTail,
        note,
        offerId,
        landings: landings.map((one) => ({ ...one }))
      }
    } catch (error) {
      problems.value = { '': (error as Error).message }
    }
  },
  { immediate: true }
)

const offers = shallowRef<OfferPage[]>([])
watch(
  () => whose.value?.id,
  async (id) => {
    // Without them the campaign is saved as it was.
    offers.value = id === undefined ? [] : await api.offersOf(id).catch(() => [])
  },
  { immediate: true }
)

function onProblem(field: string, message: string | null) {
  const { [field]: _, ...others } = unreadable.value
  unreadable.value = message === null ? others : { ...others, [field]: message }
}

async function onSubmit() {
  if (!isReady.value) return
  problems.value = {}
  if (Object.keys(unreadable.value).length > 0) return
  if (campaignId.value === null && advertiserId.value === null) {
    problems.value = { advertiser: 'Choose the advertiser it is for.' }
    return
  }
  isBusy.value = true
  try {
    const draft = parseInput(
      campaignSchema,
      JSON.parse(
        JSON.stringify({
          ...typed.value,
          goal: typed.value.goal || undefined,
          target: typed.value.target.measure === '' ? null : typed.value.target,
          flight: { startDate: typed.value.flight.startDate ?? undefined, endDate: typed.value.flight.endDate }
        })
      )
    )
    const saved = current.value
      ? await api.saveCampaign(current.value.id, current.value.version, draft)
      : await api.createCampaign(advertiserId.value as number, draft)
    await manifest.load()
    await router.push({ name: 'campaign', params: { campaignId: saved.id } })
  } catch (error) {
    if (!(error instanceof InputError) && !(error instanceof ApiError)) throw error
    problems.value =
      error.issues.length > 0 ? Object.fromEntries(error.issues.map(({ field, message }) => [field, message])) : { '': error.message }
  } finally {
    isBusy.value = false
  }
}

const problem = (field: string) => unreadable.value[field] ?? problems.value[field]
</script>

<template>
  <p v-if="!session.may('draft')" class="CampaignForm-reads">
    {{ session.isNarrow ? 'Campaigns are changed on a wider screen.' : 'Your role reads campaigns and does not change them.' }}
    <RouterLink :to="{ name: 'campaigns' }">All campaigns</RouterLink>
  </p>
  <p v-else-if="!isReady" class="CampaignForm" :class="problems[''] ? 'trouble' : 'quiet'" :role="problems[''] ? 'alert' : undefined">
    {{ problems[''] ?? 'Reading the campaign …' }}
  </p>
  <form v-else class="CampaignForm" novalidate @submit.prevent="onSubmit">
    <h1>{{ campaignId === null ? 'New campaign' : `Campaign ${current?.name ?? ''}` }}</h1>
    <FieldRow v-if="campaignId === null" label="Advertiser" :problem="problem('advertiser')">
      <ElSelect v-model="advertiserId" aria-label="Advertiser" placeholder="choose" data-test="advertiser">
        <ElOption v-for="advertiser in manifest.advertisers" :key="advertiser.id" :value="advertiser.id" :label="advertiser.name" />
      </ElSelect>
    </FieldRow>
    <FieldRow label="Name" for="campaign-name" :problem="problem('name')"
      ><ElInput id="campaign-name" v-model="typed.name" maxlength="120"
    /></FieldRow>
    <FieldRow label="Goal" :problem="problem('goal')" hint="What its lines are judged by.">
      <ElSelect v-model="typed.goal" aria-label="Goal" placeholder="choose" data-test="goal"
        ><ElOption v-for="goal in GOALS" :key="goal" :value="goal" :label="goal"
      /></ElSelect>
    </FieldRow>
    <FieldRow label="Judged by" :problem="problem('target.value') ?? problem('target.measure')">
      <select v-model="typed.target.measure" aria-label="Measure of the target" data-test="target">
        <option value="">nothing yet</option>
        <option v-for="measure in TARGET_MEASURES" :key="measure" :value="measure">{{ measure }}</option>
      </select>
      <MoneyField
        v-if="typed.target.measure !== '' && typed.target.measure !== 'ROAS'"
        id="campaign-target"
        :model-value="typed.target.value"
        unit="at most"
        @problem="onProblem('target.value', $event)"
        @update:model-value="typed.target.value = $event" />
      <label v-else-if="typed.target.measure === 'ROAS'"
        >at least
        <input
          :value="typed.target.value === null ? '' : typed.target.value / 1000"
          type="number"
          step="0.1"
          min="0"
          class="CampaignForm-roas"
          @input="typed.target.value = Math.round(Number(($event.target as HTMLInputElement).value) * 1000) || null" />
        of value for each euro</label
      >
    </FieldRow>
    <FieldRow label="First day" for="campaign-start" :problem="problem('flight.startDate')"
      ><DayField id="campaign-start" v-model="typed.flight.startDate"
    /></FieldRow>
    <FieldRow label="Last day" for="campaign-end" :problem="problem('flight.endDate')" hint="Left empty, the flight stays open."
      ><DayField id="campaign-end" v-model="typed.flight.endDate" placeholder="open"
    /></FieldRow>
    <FieldRow label="At most" hint="For all its lines together.">
      <LimitFields
        id="campaign"
        :budget="typed.budget"
        :problems="{ ...problems, ...unreadable }"
        @problem="onProblem"
        @change="(field, value) => (typed.budget[field] = value)" />
    </FieldRow>
    <FieldRow label="Caps" hint="All its lines count in them together.">
      <CapFields :caps="typed.caps" @change="(caps) => (typed.caps = caps)" />
    </FieldRow>
    <FieldRow
      label="It sells"
      :problem="problem('offerId') ?? problem('campaign.offerId')"
      hint="Its lines land where the offer says, and results tell what it pays.">
      <select v-model="typed.offerId" aria-label="Offer" data-test="offer">
        <option :value="null">nothing that is offered</option>
        <option v-for="offer in offers" :key="offer.id" :value="offer.id">{{ offer.name }}</option>
      </select>
      <RouterLink v-if="whose" class="small FieldRow-beside" :to="{ name: 'sold', params: { advertiserId: whose.id } }">offers</RouterLink>
    </FieldRow>
    <FieldRow label="People land on" :problem="problem('landings')" hint="Where neither the ad, nor its line, nor the offer says.">
      <LandingsField
        id="campaign-landings"
        :landings="typed.landings"
        :disabled="false"
        :problem="(path) => problem(`landings${path}`)"
        @change="(landings) => (typed.landings = landings)" />
    </FieldRow>
    <FieldRow
      label="Added to every link"
      for="campaign-tail"
      :problem="problem('linkTail') ?? problem('campaign.linkTail')"
      hint="Parameters at the end of every landing link of its lines; changing them sends no ad back to review.">
      <TailField id="campaign-tail" :tail="typed.linkTail" @change="(tail) => (typed.linkTail = tail)" />
      <AdvertiserTail v-if="whose" :key="whose.id" :advertiser="whose" />
    </FieldRow>
    <FieldRow label="For the reviewer" for="campaign-note" :problem="problem('note')">
      <ElInput id="campaign-note" v-model="typed.note" type="textarea" :rows="2" maxlength="2000" />
    </FieldRow>
    <p v-if="problems['']" class="trouble" role="alert">{{ problems[''] }}</p>
    <p v-if="isLive" class="quiet small">Lines of this campaign are live: new money and dates act on them from the next market hour.</p>
    <p class="CampaignForm-buttons">
      <ElButton type="primary" native-type="submit" :loading="isBusy">{{ campaignId === null ? 'Make the campaign' : 'Save' }}</ElButton>
      <RouterLink :to="campaignId === null ? { name: 'campaigns' } : { name: 'campaign', params: { campaignId } }"
        >Leave without saving</RouterLink
      >
    </p>
  </form>
</template>

<style>
.CampaignForm-reads {
  padding: 24px;
}

.CampaignForm {
  max-width: 650px;
  padding: 18px 24px 40px;
}

.CampaignForm h1 {
  margin-bottom: 10px;
  padding-bottom: 8px;
  border-bottom: 1px solid var(--ink);
  font: 550 20px var(--serif);
}

.CampaignForm .el-select {
  width: 240px;
}

.CampaignForm-roas {
  width: 70px;
  border: 1px solid var(--rule);
}

.CampaignForm-buttons {
  display: flex;
  gap: 18px;
  align-items: center;
  margin-top: 14px;
}
</style>
