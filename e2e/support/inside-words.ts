/** Names that people write so; the trade's variable for where a click leads is one. */
const NAMES = /^(iOS|iPadOS|tvOS|macOS|webOS|iPhone|iPad|kB|clickTag)$/
const INSIDE: readonly RegExp[] = [
  // Names of fields and of values, as programs write them; a link's own parameters and macros aside.
  /\b[a-z]+[A-Z][A-Za-z]*\b/g,
  /(?<![{=&?/\w])[a-z]+(?:_[a-z]+)+\b(?!})/g,
  /\b(?:price|budget|flight|targeting|caps)\.[a-z]\w*/g,
  // Things by a number that nobody but the program knows.
  /\b(?:placement|property|publisher|city|region|category|segment|carrier|advertiser) #?\d+\b/gi,
  // What a program says where it has nothing to say.
  /\bundefined\b|\bNaN\b|\bnull\b|\[object|\d{4}-\d{2}-\d{2}T/g
]

/** Words of the program's inside in a text, each once. */
export function insideWords(text: string): string[] {
  const found = INSIDE.flatMap((pattern) => text.match(pattern) ?? []).filter((words) => !NAMES.test(words))
  return [...new Set(found)]
}
