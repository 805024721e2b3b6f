/**
 * Names of lines by number; those that several lines have are told apart by the code of each. In a file of its own, since every page needs
 * it and the rest of this room brings all dimensions along.
 */
export function namesApart(lines: readonly { id: number; name: string }[]): ReadonlyMap<number, string> {
  const times = new Map<string, number>()
  for (const { name } of lines) times.set(name, (times.get(name) ?? 0) + 1)
  return new Map(lines.map(({ id, name }) => [id, (times.get(name) ?? 0) > 1 ? `${name}, L-${id}` : name]))
}
