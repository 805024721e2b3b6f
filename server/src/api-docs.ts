import { allRoutes } from './all-routes.js'
import type { Deps } from './deps.js'
import { describeApi } from './http/openapi.js'

/** What routes are made over where none is asked: whatever they take hold of as they are made. */
const nothing: unknown = new Proxy(() => undefined, {
  get: (_, name): unknown => (name === Symbol.toPrimitive ? () => '' : nothing),
  apply: () => nothing
})
const description = () => describeApi(allRoutes(nothing as Deps))

/** The description as the file in `docs/` has it: a line for each path and each schema, so that what changed is seen. */
export function apiText(): string {
  const { paths, components, ...head } = description()
  const lines = (parts: object) =>
    `{\n${Object.entries(parts)
      .map(([name, part]) => `${JSON.stringify(name)}: ${JSON.stringify(part)}`)
      .join(',\n')}\n}`
  const { schemas, ...rest } = components
  const parts = `"paths": ${lines(paths)},\n"components": { "schemas": ${lines(schemas)},\n${JSON.stringify(rest).slice(1)}`
  return `${JSON.stringify(head).slice(0, -1)},\n${parts}}\n`
}

/** All routes as a table of Markdown, by what they are about. */
export function routeTable(): string {
  const rows = Object.entries(description().paths).flatMap(([path, methods]) =>
    Object.entries(methods).map(([method, { summary, description: needs, tags }]) => ({ path, method, summary, needs, tag: tags[0] }))
  )
  const byTag = [...new Set(rows.map(({ tag }) => tag))].sort()
  return byTag
    .map((tag) => {
      const own = rows
        .filter((row) => row.tag === tag)
        .map(
          ({ method, path, summary, needs }) =>
            `| \`${method.toUpperCase()} ${path}\` | ${summary} | ${needs.replace('Needs the right ', '')} |`
        )
      return `\n### ${tag}\n\n| route | | right |\n| --- | --- | --- |\n${own.join('\n')}\n`
    })
    .join('')
}
