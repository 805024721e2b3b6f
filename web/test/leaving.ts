import { enableAutoUnmount } from '@vue/test-utils'
import { afterEach } from 'vitest'

// What one test mounted must not ask anything while the next one listens.
enableAutoUnmount(afterEach)
