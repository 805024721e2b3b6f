import type { ObjectDirective } from 'vue'

/** Sorts of a table are clicks on its heads; this makes the heads reachable and lets Enter and Space click them. */
export const vSortKeys: ObjectDirective<HTMLElement> = {
  mounted(root) {
    root.addEventListener('keydown', (event) => {
      const head = (event.target as HTMLElement).closest<HTMLElement>('th.is-sortable')
      if (!head || head !== event.target || (event.key !== 'Enter' && event.key !== ' ')) return
      event.preventDefault()
      head.click()
    })
    // The table draws its heads some ticks after it is mounted.
    const drawn = new MutationObserver(() => {
      for (const head of root.querySelectorAll<HTMLElement>('th.is-sortable')) head.tabIndex = 0
    })
    drawn.observe(root.querySelector('.el-table__header-wrapper') ?? root, { childList: true, subtree: true })
  }
}
