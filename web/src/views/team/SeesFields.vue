<script setup lang="ts">
import { ROLES, ROLE_WORDS, type Role } from '@tin-harbor/core/buying'
import FieldRow from '@/parts/FieldRow.vue'

/** Role and advertisers of somebody. */
export interface SeesFieldsProps {
  /** Tells these fields from those of somebody else on the page. */
  id: string
  advertisers: readonly { id: number; name: string }[]
  problem: (field: string) => string | undefined
}
defineProps<SeesFieldsProps>()
const sees = defineModel<{ role: Role; allAdvertisers: boolean; advertisers: number[] }>({ required: true })
</script>

<template>
  <FieldRow label="Role" :for="`${id}-role`" :problem="problem('role')">
    <select :id="`${id}-role`" v-model="sees.role" data-test="role">
      <option v-for="role in ROLES" :key="role" :value="role">{{ role }}: {{ ROLE_WORDS[role] }}</option>
    </select>
  </FieldRow>
  <FieldRow label="For" :problem="problem('advertisers') ?? problem('allAdvertisers')">
    <label class="SeesFields-one"
      ><input v-model="sees.allAdvertisers" type="checkbox" data-test="all-advertisers" /> all advertisers, later ones included</label
    >
    <template v-if="!sees.allAdvertisers">
      <label v-for="one in advertisers" :key="one.id" class="SeesFields-one"
        ><input v-model="sees.advertisers" type="checkbox" :value="one.id" data-test="advertiser" /> {{ one.name }}</label
      >
    </template>
  </FieldRow>
</template>
