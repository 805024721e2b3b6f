<script setup lang="ts">
import { computed } from 'vue'
import type { PropertyView } from '@tin-harbor/core/contract'

/** Who sells a property, and whether its file of sellers names them. */
export interface SellersOfProps {
  property: PropertyView
}
const props = defineProps<SellersOfProps>()
/** Without the sources that may not sell it, or without the property. */
defineEmits<{ leave: [what: 'source' | 'property'] }>()
const wrong = computed(() => props.property.sellers.filter((seller) => !seller.authorised))
</script>

<template>
  <h2 class="ruled">Who sells it</h2>
  <p v-if="property.file === null" class="SellersOf-note">
    It is sold under a number: nobody is told what it is, so that no file can vouch for a seller.
  </p>
  <p v-else-if="!property.file.found" class="SellersOf-note">{{ property.file.address }} is not there.</p>
  <p v-else class="SellersOf-note">
    {{ property.file.address }} names {{ property.file.records }} accounts<template v-if="property.file.problems.length > 0"
      >; {{ property.file.problems.length }} lines of it cannot be read</template
    >.
  </p>
  <table class="ruled-table" data-test="sellers">
    <thead>
      <tr>
        <th scope="col">source</th>
        <th scope="col">account</th>
        <th scope="col">sells as</th>
        <th scope="col">may it</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="seller in property.sellers" :key="seller.source" :class="{ 'is-wrong': !seller.authorised }">
        <th scope="row">{{ seller.source }}</th>
        <td>
          {{ seller.seller ?? 'not told' }}<span v-if="seller.sellerName" class="quiet small">, {{ seller.sellerName }}</span>
        </td>
        <td>{{ seller.relation === 'DIRECT' ? 'the publisher' : 'a reseller' }}</td>
        <td>
          <template v-if="seller.authorised">yes, line {{ seller.line }}</template
          ><template v-else>{{ seller.problem }}</template>
        </td>
      </tr>
    </tbody>
  </table>
  <p v-if="wrong.length > 0" class="SellersOf-note">
    <button class="plain" type="button" data-test="leave-source" @click="$emit('leave', 'source')">
      Look at the market without {{ wrong.map((seller) => seller.source).join(', ') }}
    </button>
    or <button class="plain" type="button" @click="$emit('leave', 'property')">without this property</button>.
  </p>
  <details v-if="property.file && property.file.problems.length > 0">
    <summary>Lines that cannot be read</summary>
    <ul>
      <li v-for="one in property.file.problems" :key="one.line">
        line {{ one.line }}: <code>{{ one.text }}</code> {{ one.message }}
      </li>
    </ul>
  </details>
</template>

<style>
.SellersOf-note {
  margin: 4px 0 6px;
  font-size: 12.5px;
}

.ruled-table .is-wrong td:last-child {
  color: var(--hull);
}
</style>
