/** What all examples share: where the server is, and the token that they act by. */
const { TIN_HARBOR_ADDRESS = 'http://127.0.0.1:4870', TIN_HARBOR_TOKEN } = process.env
if (!TIN_HARBOR_TOKEN) throw new Error('Set TIN_HARBOR_TOKEN to an access token: Your account, “Your tokens”.')

/**
 * Asks the interface; waits where it is told to.
 * @param {string} method @param {string} path after `/api` @param {unknown} [body] @param {Record<string, string>} [headers]
 * @returns {Promise<Response>} @throws with what the server said is wrong, field by field
 */
export async function send(method, path, body, headers = {}) {
  const response = await fetch(`${TIN_HARBOR_ADDRESS}/api${path}`, {
    method,
    headers: {
      authorization: `Bearer ${TIN_HARBOR_TOKEN}`,
      ...(body === undefined ? {} : { 'content-type': 'application/json' }),
      ...headers
    },
    body: body === undefined ? undefined : JSON.stringify(body)
  })
  if (response.ok) return response
  if (response.status === 429) {
    await new Promise((resolve) => setTimeout(resolve, 1000 * Number(response.headers.get('retry-after') ?? 1)))
    return send(method, path, body, headers)
  }
  const { title, issues = [] } = /** @type {any} */ (await response.json())
  throw new Error([title, ...issues.map((/** @type {any} */ { field, message }) => `${field}: ${message}`)].join('\n'))
}

/** @param {string} method @param {string} path @param {unknown} [body] @param {Record<string, string>} [headers] @returns {Promise<any>} */
export async function ask(method, path, body, headers) {
  const response = await send(method, path, body, headers)
  return response.status === 204 ? undefined : response.json()
}

/** All lines that a question finds, page after page. @param {Record<string, string>} question */
export async function* linesOf(question) {
  for (let after; ;) {
    const page = await ask('GET', `/lines?${new URLSearchParams({ ...question, ...(after ? { after } : {}) })}`)
    yield* page.lines
    if (page.next === null) return
    after = page.next
  }
}
