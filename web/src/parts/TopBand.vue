<script setup lang="ts">
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import RunControls from './RunControls.vue'
import { lastsWords, money } from '@/composables/formats'
import { useManifest } from '@/stores/manifest'
import { useMarket } from '@/stores/market'
import { useSession } from '@/stores/session'

defineEmits<{ slip: [] }>()
const market = useMarket()
const manifest = useManifest()
const session = useSession()
const router = useRouter()
/** Live lines with edits that are not live. */
const staged = computed(() => manifest.lines.filter((line) => line.staged).length)

const balanceWords = computed(() => {
  const { balanceMicros = 0, lastsUntil = null } = market.funds ?? {}
  if (balanceMicros <= 0) return 'Balance: nothing is left, and no line buys'
  return lastsUntil === null ? 'Balance' : `Balance: lasts ${lastsWords(lastsUntil, market.run.hour)} at the pace of the last day`
})

async function onSignOut() {
  await session.signOut()
  await router.push({ name: 'sign-in' })
}
</script>

<template>
  <header class="TopBand">
    <RouterLink class="TopBand-name" :to="{ name: 'market' }">
      <svg width="22" height="22" viewBox="0 0 22 22" aria-hidden="true">
        <path d="M2 15 q3 -3 6 0 t6 0 t6 0 M2 19 q3 -3 6 0 t6 0 t6 0" fill="none" stroke="var(--water)" stroke-width="1.6" />
        <path d="M6 12 V4 h10 V12 M4.5 4 h13" fill="none" stroke="var(--gold)" stroke-width="1.8" />
      </svg>
      Tin Harbor
    </RouterLink>
    <nav aria-label="Views">
      <RouterLink :to="{ name: 'market' }">Market</RouterLink>
      <RouterLink :to="{ name: 'campaigns' }">Campaigns</RouterLink>
      <RouterLink :to="{ name: 'creatives' }">Creatives</RouterLink>
      <RouterLink :to="{ name: 'reports' }">Reports</RouterLink>
      <RouterLink v-if="session.may('money')" :to="{ name: 'ledger' }">Ledger</RouterLink>
      <RouterLink v-if="session.may('team')" :to="{ name: 'team' }">Team</RouterLink>
    </nav>
    <RunControls />
    <button v-if="session.may('draft')" class="TopBand-out" type="button" data-test="open-slip-drawer" @click="$emit('slip')">
      Slip{{ staged > 0 ? `: ${staged}` : '' }}
    </button>
    <span v-if="market.funds" class="TopBand-balance" :class="{ 'is-low': market.funds.isLow }" :title="balanceWords" data-test="balance">
      <span class="visually-hidden">Balance</span>
      {{ money(market.funds.balanceMicros) }}<template v-if="market.funds.isLow"> left</template>
    </span>
    <RouterLink
      v-if="session.user"
      class="TopBand-user"
      :to="{ name: 'account' }"
      :title="`${session.user.email}, ${session.user.role}: your account`"
      ><span class="TopBand-name-of">{{ session.user.name }}</span
      ><span class="TopBand-you">You</span></RouterLink
    >
    <!-- In narrow windows it stands with one's account. -->
    <button class="TopBand-out is-leaving" type="button" @click="onSignOut">Sign out</button>
  </header>
</template>

<style>
.TopBand {
  display: flex;
  align-items: center;
  gap: 18px;
  min-height: 46px;
  padding: 0 16px;
  background: var(--deep);
  color: var(--on-deep);
}

.TopBand-name {
  display: flex;
  align-items: center;
  gap: 9px;
  color: var(--paper);
  font: 600 17px var(--serif);
  text-decoration: none;
  white-space: nowrap;
}

.TopBand nav {
  display: flex;
  gap: 18px;
  margin-right: auto;
}

.TopBand nav a {
  padding: 13px 0 11px;
  border-bottom: 2px solid transparent;
  color: var(--on-deep-2);
  text-decoration: none;
}

.TopBand nav a.router-link-active {
  border-color: var(--gold);
  color: var(--field);
}

.TopBand-balance {
  padding-left: 14px;
  border-left: 1px solid var(--deep-rule);
  white-space: nowrap;
}

.TopBand-balance.is-low {
  padding: 2px 8px;
  border: 1px solid var(--gold);
  color: var(--gold);
}

.TopBand-user {
  color: var(--on-deep-2);
  text-decoration: none;
  white-space: nowrap;
}

.TopBand-user:hover,
.TopBand-user.router-link-active {
  color: var(--field);
}

.TopBand-you {
  display: none;
}

@media (max-width: 1160px) {
  .TopBand .RunControls-label {
    display: none;
  }

  .TopBand,
  .TopBand nav {
    gap: 12px;
  }

  .TopBand-name-of,
  .TopBand-out.is-leaving {
    display: none;
  }

  .TopBand-you {
    display: inline !important;
  }
}

.TopBand-out {
  padding: 3px 8px;
  border: 1px solid var(--deep-rule);
  border-radius: 3px;
  background: none;
  color: var(--on-deep);
  font: 12px var(--sans);
  white-space: nowrap;
  cursor: pointer;
}
</style>
