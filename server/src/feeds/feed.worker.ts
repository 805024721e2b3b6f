import { feedItems, guessFields, isUntold } from '@tin-harbor/core/creative'
import { serve } from '../threads/serve.js'
import type { FeedWork } from './messages.js'
import { feedRows } from './rows.js'

/** Feeds are read here: one of megabytes holds nobody up. */
serve<FeedWork>(
  {
    read: ({ data, draft }) => {
      const { form, rows, wrong } = feedRows(data)
      const names = [...new Set(rows.slice(0, 1000).flatMap((row) => Object.keys(row)))]
      const guessed = guessFields(names)
      const { items, broken } = feedItems(rows, isUntold(draft) ? { ...draft, fields: guessed } : draft, wrong)
      return { form, names, guessed, items, broken }
    }
  },
  {}
)
