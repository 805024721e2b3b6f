/** A name with its middle left out where it is long: names that begin alike differ at their ends. */
export function shortName(name: string, most: number): string {
  if (name.length <= most) return name
  const head = Math.floor((most - 3) / 2)
  return `${name.slice(0, head).trimEnd()} … ${name.slice(head + 3 - most).trimStart()}`
}
