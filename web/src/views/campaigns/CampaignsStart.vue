<script setup lang="ts">
import { computed } from 'vue'
import { useManifest } from '@/stores/manifest'
import { useSession } from '@/stores/session'

const manifest = useManifest()
const session = useSession()
const first = computed(() => manifest.advertisers[0])
</script>

<template>
  <div class="CampaignsStart">
    <h1 v-if="manifest.isEmpty">No campaign yet.</h1>
    <h1 v-else>Choose a campaign or a line of the manifest.</h1>
    <p v-if="session.may('draft') && first">
      Or begin with a <RouterLink :to="{ name: 'new-campaign', query: { advertiser: first.id } }">new campaign</RouterLink>: who it is for,
      its flight and its money. Lines come after.
    </p>
    <p v-else-if="manifest.isEmpty && manifest.advertisers.length === 0">You do not see any advertiser; ask an admin to add you to one.</p>
  </div>
</template>

<style>
.CampaignsStart {
  max-width: 560px;
  padding: 40px 32px;
  font: 15px/1.5 var(--serif);
}

.CampaignsStart h1 {
  margin-bottom: 8px;
  font: 550 20px var(--serif);
}
</style>
