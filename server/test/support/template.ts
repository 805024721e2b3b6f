import { makeTemplate } from '../../../scripts/test-server.mjs'

/** The demo that every server of these tests begins with, and the people of its world. */
export const TEMPLATE = 'test_template'
export const TEMPLATE_PEOPLE = 20_000

/** Makes it, before all tests. */
export default async function setup(): Promise<void> {
  if (!process.env.TEST_DATABASE_URL) throw new Error('TEST_DATABASE_URL is not set; run the tests with `npm test`.')
  const url = new URL(process.env.TEST_DATABASE_URL)
  url.pathname = `/${TEMPLATE}`
  await makeTemplate(url.href, String(TEMPLATE_PEOPLE))
}
