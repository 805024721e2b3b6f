import { mount, type VueWrapper } from '@vue/test-utils'
import { computed, defineComponent, h, shallowRef, type Component, type Ref } from 'vue'
import type { LineDraft } from '@tin-harbor/core/buying'
import type { CampaignView } from '@tin-harbor/core/contract'
import { provideLineEdit } from '@/composables/line-edit'
import { SIEVE, figuresOf } from './support'

interface Edited {
  draft: Ref<LineDraft>
  campaign?: CampaignView
  problems?: Record<string, string>
  disabled?: boolean
  global?: Parameters<typeof mount>[1] extends { global?: infer Global } | undefined ? Global : never
}

/** Mounts what edits a line inside a page that holds its draft. */
export function mountEditing(
  part: Component,
  props: Record<string, unknown>,
  { draft, campaign, problems = {}, disabled = false, global }: Edited
): VueWrapper {
  const page = defineComponent({
    setup(_, { expose }) {
      provideLineEdit({
        draft,
        problems: computed(() => problems),
        campaign: computed(() => campaign),
        disabled: computed(() => disabled),
        figures: shallowRef(figuresOf(900)),
        sieve: shallowRef(SIEVE),
        change: (edit) => {
          edit(draft.value)
          draft.value = { ...draft.value }
        },
        onProblem: () => undefined
      })
      expose({})
      return () => h(part, props)
    }
  })
  return mount(page, { global, attachTo: document.body })
}

export const alerts = (view: VueWrapper) => view.findAll('[role=alert]').map((one) => one.text())
