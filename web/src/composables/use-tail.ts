import { computed } from 'vue'
import { joinedTails } from '@tin-harbor/core/buying'
import { useManifest } from '@/stores/manifest'
import { useLineEdit } from './line-edit'

/** What is added to the links of the line that a page edits: the tail of its advertiser, then that of its campaign. */
export function useTail() {
  const { campaign } = useLineEdit()
  const manifest = useManifest()
  return computed(() => joinedTails(manifest.advertiserOf(campaign.value?.advertiserId ?? 0)?.linkTail, campaign.value?.linkTail))
}
