/** Rows of a table that a click means: the one clicked, or with Shift all from the one that was clicked before. */
export function useRowRange(): (key: string, inOrder: readonly string[], event: MouseEvent) => readonly string[] {
  let last: string | null = null
  return (key, inOrder, { shiftKey }) => {
    const [a, b] = [last === null ? -1 : inOrder.indexOf(last), inOrder.indexOf(key)]
    last = key
    return shiftKey && a >= 0 && b >= 0 ? inOrder.slice(Math.min(a, b), Math.max(a, b) + 1) : [key]
  }
}
