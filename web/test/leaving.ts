import { disableAutoUnmount, enableAutoUnmount } from '@vue/test-utils'
import { afterEach } from 'vitest'

// What one test mounted must not ask anything while the next one listens. Files share their modules, and this one runs for each.
disableAutoUnmount()
enableAutoUnmount(afterEach)
