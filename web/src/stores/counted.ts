import { shallowRef } from 'vue'
import { defineStore } from 'pinia'
import type { SurveyView } from '@tin-harbor/core/contract'

/** What a chooser counted last: a phrase that becomes one by its first value, and a chooser that is opened again, find it here. */
export const useCounted = defineStore('counted', () => ({
  last: shallowRef<{ counts: string; survey: SurveyView } | null>(null)
}))
