import type { FileFacts } from '@tin-harbor/core/creative'
import type { FileView } from '@tin-harbor/core/contract'

/** A file of the first advertiser's library. */
export const file = (id: number, name: string, facts: FileFacts, over: Partial<FileView> = {}): FileView => ({
  id,
  advertiserId: 1,
  name,
  sha256: String(id).repeat(64).slice(0, 64),
  bytes: facts.bytes,
  medium: facts.medium,
  facts,
  altText: '',
  tags: [],
  retired: false,
  madeFrom: null,
  madeHow: null,
  replacedBy: null,
  hasProxy: false,
  addedHour: 1440,
  version: 1,
  usedBy: [],
  ...over
})
