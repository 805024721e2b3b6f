<script setup lang="ts">
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { useRoute } from 'vue-router'
import { targetReached } from '@tin-harbor/core/buying'
import type { CampaignView, Pace, ReportView, TodayView } from '@tin-harbor/core/contract'
import { dateOfDay, localDayOf, zoneIndex } from '@tin-harbor/core/time'
import { ApiError, api } from '@/api'
import { ORGANISATION_ZONE, count, cpm, money, shortDate } from '@/composables/formats'
import { useMarketTick } from '@/composables/use-market-tick'
import PaceChart from '@/parts/PaceChart.vue'
import TodayChart from '@/parts/TodayChart.vue'
import { useManifest } from '@/stores/manifest'
import { useMarket } from '@/stores/market'
import { useSession } from '@/stores/session'
import CampaignCompany from './CampaignCompany.vue'
import CampaignLines from './CampaignLines.vue'
import FlightCalendar from './FlightCalendar.vue'
import LinksReplace from './LinksReplace.vue'
import StartFrom from './StartFrom.vue'

const route = useRoute()
const manifest = useManifest()
const market = useMarket()
const session = useSession()
const id = Number(route.params.campaignId)
/** Whether links of many lines are being changed. */
const isLinking = ref(false)
const campaign = shallowRef<CampaignView | null>(null)
const pace = shallowRef<Pace | null>(null)
const today = shallowRef<TodayView | null>(null)
const error = shallowRef<ApiError | null>(null)

const advertiser = computed(() => (campaign.value ? manifest.advertiserOf(campaign.value.advertiserId) : undefined))
const lines = computed(() => manifest.lines.filter((line) => line.campaignId === id))

async function load(): Promise<void> {
  try {
    const answer = await api.campaign(id)
    campaign.value = answer.campaign
    pace.value = answer.pace
    today.value = (await api.campaignToday(id)).today
    error.value = null
  } catch (failure) {
    error.value = failure as ApiError
  }
}

/** All results of the campaign so far, for what it is judged by. */
const total = shallowRef<ReportView['total'] | null>(null)
/** Whether they are known, be it that there are none. */
const isRead = ref(false)
watch(
  () => [campaign.value?.target?.measure, market.run.hour],
  async () => {
    if (!campaign.value?.target || market.run.hour === 0) return
    const today = dateOfDay(localDayOf(zoneIndex(ORGANISATION_ZONE), market.run.hour - 1))
    const { startDate } = campaign.value.flight
    total.value =
      startDate > today
        ? null
        : ((await api.report({ by: 'line', from: startDate, to: today, windowHours: 720, campaign: id, line: null }).catch(() => null))
            ?.total ?? null)
    isRead.value = true
  }
)
const judged = computed(() => {
  const target = campaign.value?.target
  if (!target) return ''
  const words = (value: number) =>
    target.measure === 'ROAS' ? (value / 1000).toFixed(2) : target.measure === 'CPM' ? cpm(value) : money(value)
  const reached = total.value ? targetReached(target, total.value) : null
  const aim = `${target.measure} of ${target.measure === 'ROAS' ? 'at least' : 'at most'} ${words(target.value)}`
  if (reached === null) return `Judged by a ${aim}: ${isRead.value ? 'nothing to tell yet' : 'reading what it brought …'}.`
  const isGood = target.measure === 'ROAS' ? reached >= target.value : reached <= target.value
  const range =
    target.measure === 'CPA' && total.value?.costRange
      ? ` (${words(total.value.costRange.low)} to ${total.value.costRange.high === null ? 'no end' : words(total.value.costRange.high)})`
      : ''
  return `Judged by a ${aim}: it stands at ${words(reached)}${range}, ${isGood ? 'as wanted' : 'not there'}.`
})

onMounted(load)
useMarketTick(load)

/** A flight that was dragged: saved in the draft as any edit. */
async function onMove(lineId: number, flight: { startDate: string; endDate: string | null }) {
  try {
    const { version, draft } = await api.line(lineId)
    await api.saveLine(lineId, version, { ...draft, flight: { ...draft.flight, ...flight } })
    error.value = null
  } catch (failure) {
    error.value = failure as ApiError
  }
  await manifest.load()
}
</script>

<template>
  <div class="CampaignPage">
    <p v-if="error" class="trouble" role="alert">{{ error.message }}</p>
    <template v-if="campaign">
      <header>
        <p class="quiet">
          {{ advertiser?.name }} <span aria-hidden="true">/</span> <b>{{ campaign.code }}</b>
        </p>
        <RouterLink v-if="session.may('draft')" :to="{ name: 'edit-campaign', params: { campaignId: id } }">Change</RouterLink>
      </header>
      <h1>
        <b>{{ campaign.name }}</b>, for {{ campaign.goal }}, from <b>{{ shortDate(campaign.flight.startDate) }}</b>
        <template v-if="campaign.flight.endDate">
          to <b>{{ shortDate(campaign.flight.endDate) }}</b></template
        ><template v-else> on</template>;
        <template v-if="campaign.budget.totalMicros !== null"
          ><b>{{ money(campaign.budget.totalMicros) }}</b> in all<template v-if="campaign.budget.dailyMicros !== null"
            >,
          </template></template
        >
        <template v-if="campaign.budget.dailyMicros !== null"
          >never more than <b>{{ money(campaign.budget.dailyMicros) }}</b> a day</template
        >
        <template v-if="campaign.budget.dailyMicros === null && campaign.budget.totalMicros === null">without a budget of its own</template
        >.
      </h1>
      <template v-if="pace">
        <p class="CampaignPage-said" data-test="pace">
          <template v-if="pace.spentMicros > 0 || (pace.dueMicros ?? 0) > 0">
            Spent <b>{{ money(pace.spentMicros) }}</b><template v-if="pace.dueMicros !== null">
              of the <b>{{ money(pace.dueMicros) }}</b> due by now</template
            >: {{ pace.words }}.
          </template>
          <template v-else>It {{ pace.words }}; nothing was spent yet.</template>
        </p>
        <p v-if="campaign.target" class="CampaignPage-said" data-test="target">{{ judged }}</p>
        <PaceChart v-if="pace.spentMicros > 0 || (pace.dueMicros ?? 0) > 0" :days="pace.days" />
      </template>
      <TodayChart v-if="today" :today="today" />
      <h2>Lines</h2>
      <FlightCalendar v-if="lines.length > 0" :campaign="campaign" :lines="lines" :disabled="!session.may('draft')" @move="onMove" />
      <StartFrom v-if="session.may('draft')" :campaign="campaign" />
      <p v-if="session.may('draft') && lines.length > 0">
        <button class="plain small" type="button" :aria-expanded="isLinking" data-test="links-open" @click="isLinking = !isLinking">
          Change links of many …
        </button>
      </p>
      <LinksReplace v-if="isLinking" :campaign="id" @close="isLinking = false" />
      <CampaignLines v-if="lines.length > 0" :lines="lines" />
      <p v-else class="quiet">
        No line yet. One country, one device class and one format a line can be read afterwards; a mixed one cannot.
      </p>
      <CampaignCompany v-if="session.may('draft') && lines.length > 1" :campaign-id="id" :disabled="!session.may('draft')" />
      <p v-if="pace && pace.spentMicros > 0" class="quiet small">
        {{ count(pace.days.reduce((sum, day) => sum + day.wins, 0)) }} impressions and
        {{ count(pace.days.reduce((sum, day) => sum + day.clicks, 0)) }} clicks in all.
      </p>
    </template>
  </div>
</template>

<style>
.CampaignPage {
  max-width: 980px;
  padding: 12px 24px 40px;
}

.CampaignPage > header {
  display: flex;
  gap: 14px;
  align-items: center;
}

.CampaignPage > header p {
  margin-right: auto;
}

.CampaignPage h1 {
  margin: 10px 0 8px;
  padding-bottom: 10px;
  border-bottom: 1px solid var(--ink);
  font: 400 18.5px/1.55 var(--serif);
}

.CampaignPage h1 b {
  font-weight: 550;
}

.CampaignPage-said {
  margin: 8px 0 12px;
  font: 14px/1.5 var(--serif);
}

.CampaignPage h2 {
  margin: 20px 0 6px;
}
</style>
