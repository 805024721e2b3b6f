import http from 'node:http'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { AccessTokenMade, InvitationMade, SessionView, TeamView, TrailView } from '@tin-harbor/core/contract'
import { AccessToken, Invitation, PasswordReset } from '../src/team/team-models.js'
import { Session, User } from '../src/team/user-model.js'
import { ADMIN, READER, TRADER, testServer, type Answer, type Ask, type TestServer } from './support/server.js'

let server: TestServer
let admin: Ask
beforeAll(async () => {
  server = await testServer('team')
  admin = await server.as(ADMIN)
})
afterAll(() => server.close())

const team = async () => (await admin<TeamView>('GET', '/team')).body
const person = async (email: string) => (await team()).people.find((one) => one.email === email) as TeamView['people'][number]
const asked = (email: string, more: object = {}) => ({ email, role: 'trader', allAdvertisers: false, advertisers: [1], ...more })
const secretOf = (link: string) => link.split('#')[1]
const invite = async (email: string, more: object = {}) =>
  secretOf((await admin<InvitationMade>('POST', '/team/invitations', asked(email, more))).body.link)
const accept = (secret: string, more: object = {}) =>
  server.nobody('POST', '/invitations/accepted', { secret, name: 'Nuno Vale', password: 'long enough', ...more })
/** Calls of whoever has a password. */
async function signedIn(email: string, password: string): Promise<Ask | number> {
  const answer = await server.nobody('POST', '/session', { email, password })
  if (answer.status !== 204) return answer.status
  const cookie = (answer.headers.get('set-cookie') ?? '').split(';')[0]
  return (method, path, body, headers = {}) => server.nobody(method, path, body, { cookie, ...headers })
}
const me = async (ask: Ask | number) => (typeof ask === 'number' ? ask : (await ask('GET', '/me')).status)

describe('an invitation', () => {
  it('lets one in, once, with what it says, and is told in no list and no table', async () => {
    const { body: made } = await admin<InvitationMade>('POST', '/team/invitations', asked('nuno@wharfside.example'))
    const secret = secretOf(made.link)
    expect(made).toMatchObject({ mailed: true })
    expect(server.deps.mail.standIn?.letters()[0]).toMatchObject({ to: 'nuno@wharfside.example', text: expect.stringContaining(secret) })
    expect(JSON.stringify(await team())).not.toContain(secret)
    expect(JSON.stringify(await Invitation.findAll({ raw: true }))).not.toContain(secret)
    expect((await server.nobody('POST', '/invitations/opened', { secret })).body).toEqual({
      email: 'nuno@wharfside.example',
      role: 'trader',
      organisation: 'Wharfside'
    })
    expect((await accept(secret, { password: 'short' })).body.issues[0]).toEqual({
      field: 'password',
      message: 'A password has at least 10 letters.'
    })
    // Used by many at once, it makes one.
    const all = await Promise.all(Array.from({ length: 8 }, () => accept(secret)))
    expect(all.map(({ status }) => status).sort()).toEqual([204, ...Array<number>(7).fill(410)])
    expect(await User.count({ where: { email: 'nuno@wharfside.example' } })).toBe(1)
    expect((await accept(secret)).body.code).toBe('gone')
    const nuno = (await signedIn('nuno@wharfside.example', 'long enough')) as Ask
    const seen = (await nuno('GET', '/manifest')).body.advertisers.map(({ id }: { id: number }) => id)
    expect([(await nuno('GET', '/me')).body.role, seen]).toEqual(['trader', [1]])
    expect((await nuno('GET', '/team')).status).toBe(403)
  })

  it('is good no more when it is taken back, is too old, or another took its place', async () => {
    const first = await invite('late@wharfside.example')
    const second = await invite('late@wharfside.example')
    expect((await accept(first)).status).toBe(410)
    const { invitations } = await team()
    expect(invitations.filter(({ email }) => email === 'late@wharfside.example')).toHaveLength(1)
    const [{ id }] = invitations
    expect((await admin('DELETE', `/team/invitations/${id}`)).status).toBe(200)
    expect((await admin('DELETE', `/team/invitations/${id}`)).status).toBe(409)
    expect((await server.nobody('POST', '/invitations/opened', { secret: second })).status).toBe(410)
    const old = await invite('late@wharfside.example')
    await server.deps.sequelize.transaction((transaction) =>
      Invitation.update({ expiresAt: 1 }, { where: { email: 'late@wharfside.example' }, transaction })
    )
    expect((await accept(old)).status).toBe(410)
  })

  it('is for an address that is new here, a role and advertisers that there are', async () => {
    for (const [body, field] of [
      [asked(TRADER), 'email'],
      [asked('no address'), 'email'],
      [asked('x@y.example', { role: 'pirate' }), 'role'],
      [asked('x@y.example', { advertisers: [] }), 'advertisers'],
      [asked('x@y.example', { advertisers: [999] }), 'advertisers']
    ] as const)
      expect((await admin('POST', '/team/invitations', body)).body.issues[0].field).toBe(field)
    expect((await (await server.as(TRADER))('POST', '/team/invitations', asked('x@y.example'))).status).toBe(403)
  })
})

describe('what somebody may', () => {
  it('is changed from one call to the next; the last admin stays one, also when two demote each other at once', async () => {
    const reader = await server.as(READER)
    const was = await person(READER)
    const set = (one: TeamView['people'][number], more: object) =>
      admin('PUT', `/team/people/${one.id}`, {
        version: one.version,
        role: one.role,
        active: true,
        allAdvertisers: one.allAdvertisers,
        advertisers: one.advertisers,
        ...more
      })
    expect((await reader('GET', '/manifest')).body.advertisers).toHaveLength(2)
    expect((await set(was, { role: 'trader', advertisers: [2] })).status).toBe(200)
    expect([(await reader('GET', '/me')).body.role, (await reader('GET', '/manifest')).body.advertisers.length]).toEqual(['trader', 1])
    expect((await set(was, { role: 'reader' })).status).toBe(409)
    const marta = await person(ADMIN)
    const alone = await set(marta, { role: 'reader' })
    expect([alone.status, alone.body.title]).toEqual([409, 'Marta Seixas is the last admin: make somebody else one first.'])
    expect((await set(marta, { active: false })).status).toBe(409)
    expect((await set(await person(READER), { role: 'admin' })).status).toBe(200)
    const other = await person(READER)
    const both = await Promise.all([
      set(marta, { role: 'trader' }),
      reader('PUT', `/team/people/${other.id}`, {
        version: other.version,
        role: 'reader',
        active: true,
        allAdvertisers: true,
        advertisers: []
      })
    ])
    expect(both.map(({ status }) => status).sort()).toEqual([200, expect.toBeOneOf([403, 409])])
    expect(await User.count({ where: { role: 'admin', active: true, organisationId: 1 } })).toBe(1)
    await server.deps.sequelize.transaction((transaction) => User.update({ role: 'admin' }, { where: { email: ADMIN }, transaction }))
    expect((await set(await person(READER), { role: 'reader', allAdvertisers: false, advertisers: [1, 2] })).status).toBe(200)
  })

  it('is nothing once they left: sessions and tokens end, and they come back with what they had', async () => {
    const secret = await invite('gone@wharfside.example', { role: 'assistant' })
    await accept(secret)
    const gone = (await signedIn('gone@wharfside.example', 'long enough')) as Ask
    const { body } = await gone<AccessTokenMade>('POST', '/me/tokens', { name: 'Script', rights: ['read'], advertisers: null, days: 5 })
    const one = await person('gone@wharfside.example')
    const set = async (active: boolean, version: number) =>
      admin('PUT', `/team/people/${one.id}`, { version, role: 'assistant', active, allAdvertisers: false, advertisers: [1] })
    expect((await set(false, one.version)).status).toBe(200)
    expect(await me(gone)).toBe(401)
    expect(await signedIn('gone@wharfside.example', 'long enough')).toBe(401)
    expect((await server.nobody('GET', '/me', undefined, { authorization: `Bearer ${body.secret}` })).status).toBe(401)
    expect((await set(true, one.version + 1)).status).toBe(200)
    expect(await me(await signedIn('gone@wharfside.example', 'long enough'))).toBe(200)
  })
})

describe('a password', () => {
  it('is changed by who knows the old one; other sessions end', async () => {
    await accept(await invite('two@wharfside.example'))
    const [here, there] = [
      await signedIn('two@wharfside.example', 'long enough'),
      await signedIn('two@wharfside.example', 'long enough')
    ] as Ask[]
    const own = (await here<SessionView[]>('GET', '/me/sessions')).body
    expect(own.filter(({ isThis }) => isThis)).toHaveLength(1)
    expect(own.length).toBeGreaterThanOrEqual(2)
    expect((await here('PUT', '/me/password', { old: 'wrong', password: 'another long one' })).body.issues[0].field).toBe('old')
    expect((await here('PUT', '/me/password', { old: 'long enough', password: 'two@wharfside.example' })).body.issues[0].field).toBe(
      'password'
    )
    expect((await here('PUT', '/me/password', { old: 'long enough', password: 'another long one' })).status).toBe(204)
    expect([await me(here), await me(there), await me(await signedIn('two@wharfside.example', 'long enough'))]).toEqual([200, 401, 401])
    expect((await here<SessionView[]>('GET', '/me/sessions')).body).toHaveLength(1)
  })

  it('that was forgotten is set anew by a letter, once; nobody learns who is here', async () => {
    const before = server.deps.mail.standIn?.letters().length ?? 0
    const [known, unknown] = await Promise.all(
      [READER, 'nobody@wharfside.example'].map((email) => server.nobody('POST', '/passwords/forgotten', { email }))
    )
    expect(known.body).toEqual(unknown.body)
    for (let n = 0; n < 100 && server.deps.mail.standIn?.letters().length === before; n++)
      await new Promise((resolve) => setTimeout(resolve, 20))
    const letters = server.deps.mail.standIn?.letters() ?? []
    expect(letters).toHaveLength(before + 1)
    expect(letters[0].to).toBe(READER)
    const secret = secretOf(/\S+#\S+/.exec(letters[0].text)?.[0] ?? '')
    expect(JSON.stringify(await PasswordReset.findAll({ raw: true }))).not.toContain(secret)
    const before2 = await server.as(READER)
    const anew = () => server.nobody('POST', '/passwords/new', { secret, password: 'remembered now' })
    const both = await Promise.all([anew(), anew()])
    expect(both.map(({ status }) => status).sort()).toEqual([204, 410])
    expect([
      await me(before2),
      await me(await signedIn(READER, 'remembered now')),
      await me(await signedIn(READER, 'harbor-lights'))
    ]).toEqual([401, 200, 401])
    // Whoever asks cannot say where the letter leads.
    const evil = { host: 'evil.example', origin: 'http://evil.example' }
    const spoofed = await new Promise<number>((resolve, reject) => {
      const { hostname, port } = new URL(server.address)
      const headers = { ...evil, 'content-type': 'application/json' }
      const request = http.request({ hostname, port, path: '/api/passwords/forgotten', method: 'POST', headers }, (answer) => {
        answer.resume()
        answer.on('end', () => resolve(answer.statusCode ?? 0))
      })
      request.on('error', reject).end(JSON.stringify({ email: TRADER }))
    })
    expect(spoofed).toBe(200)
    await expect.poll(() => server.deps.mail.standIn?.letters()[0].to).toBe(TRADER)
    expect(server.deps.mail.standIn?.letters()[0].text).toContain(`${server.address}/new-password#`)
    expect(server.deps.mail.standIn?.letters()[0].text).not.toContain('evil')
    // Its page shows the letter to whoever sits here, and runs nothing.
    const page = await fetch(server.deps.mail.outbox ?? '')
    expect(await page.text()).toContain(`#${secret}`)
    expect(page.headers.get('content-security-policy')).toContain("default-src 'none'")
  })
})

describe('a session', () => {
  it('is ended by whoever has it, or by an admin, and by nobody else', async () => {
    await accept(await invite('three@wharfside.example'))
    const [here, there] = [
      await signedIn('three@wharfside.example', 'long enough'),
      await signedIn('three@wharfside.example', 'long enough')
    ] as Ask[]
    const other = (await there<SessionView[]>('GET', '/me/sessions')).body.find(({ isThis }) => isThis) as SessionView
    expect((await (await server.as(TRADER))('DELETE', `/me/sessions/${other.id}`)).status).toBe(403)
    expect((await here('DELETE', `/me/sessions/${other.id}`)).status).toBe(200)
    expect([await me(here), await me(there)]).toEqual([200, 401])
    const { id } = await person('three@wharfside.example')
    expect((await admin<TeamView>('DELETE', `/team/people/${id}/sessions`)).status).toBe(200)
    expect(await me(here)).toBe(401)
    expect(await Session.count({ where: { userId: id } })).toBe(0)
  })

  it('has formats of its user', async () => {
    const trader = await server.as(TRADER)
    expect((await trader('GET', '/me')).body.formats).toBeNull()
    const formats = { numbers: '1.234,50', dates: 'Mar 2', week: 'Sunday' }
    expect((await trader('PUT', '/me/formats', formats)).status).toBe(204)
    expect((await trader('GET', '/me')).body.formats).toEqual(formats)
    expect((await trader('PUT', '/me/formats', { ...formats, week: 'Tuesday' })).body.issues[0].field).toBe('week')
  })
})

describe('the trail', () => {
  it('says who did what, in the words of the pages, page after page, by person, kind and day', async () => {
    const first = (await admin<TrailView>('GET', '/team/trail?limit=5')).body
    expect(first.entries).toHaveLength(5)
    const rest: TrailView['entries'] = []
    for (let next = first.next; next !== null;) {
      const { body } = await admin<TrailView>('GET', `/team/trail?limit=200&after=${next}`)
      rest.push(...body.entries)
      next = body.next
    }
    const all = [...first.entries, ...rest]
    expect(new Set(all.map(({ id }) => id)).size).toBe(all.length)
    expect(all.map(({ id }) => id)).toEqual([...all.map(({ id }) => id)].sort((a, b) => b - a))
    const demoted = all.find(
      ({ kind, did, changes }) => kind === 'user' && did === 'changed the user' && changes.some(({ field }) => field === 'role')
    )
    expect(demoted).toMatchObject({ who: expect.any(String), hour: 1448 })
    expect(demoted?.changes.find(({ field }) => field === 'role')).toMatchObject({ before: expect.any(String), after: expect.any(String) })
    expect(all.some(({ kind, name }) => kind === 'invitation' && name === 'nuno@wharfside.example')).toBe(true)
    expect(all.some(({ kind, name }) => kind === 'line' && name.includes('Display'))).toBe(true)
    // Advertisers are told by their names, not by numbers of ours.
    const given = all.flatMap(({ changes }) => changes.filter(({ field }) => field === 'advertisers')).map(({ after }) => after)
    expect(given).toContain('Nightjar Telescopes')
    expect(given.filter((words) => /\d/.test(words))).toEqual([])
    const { id } = await person(ADMIN)
    const mine = (await admin<TrailView>('GET', `/team/trail?who=${id}&kind=invitation`)).body.entries
    expect(new Set(mine.map(({ who, kind }) => `${who} ${kind}`))).toEqual(new Set(['Marta Seixas invitation']))
    expect((await admin<TrailView>('GET', '/team/trail?to=2026-01-02')).body.entries).toEqual([])
    expect((await admin('GET', '/team/trail?after=nonsense')).body.issues[0].field).toBe('after')
    expect((await admin('GET', '/team/trail?from=2026-02-30')).body.issues[0].field).toBe('from')
    expect(JSON.stringify(all)).not.toMatch(/tokenHash|passwordHash|argon2/)
  })
})

describe('a token', () => {
  const by =
    (secret: string): Ask =>
    (method, path, body) =>
      server.nobody(method, path, body, { authorization: `Bearer ${secret}`, origin: 'http://elsewhere.example' })
  const made = async (ask: Ask, more: object = {}) =>
    (await ask<AccessTokenMade>('POST', '/me/tokens', { name: 'Nightly', rights: ['read'], advertisers: null, days: 30, ...more })).body

  it('does what it was given of what its owner may now, for the advertisers chosen, and shows when it was used', async () => {
    const trader = await server.as(TRADER)
    const { secret, token } = await made(trader, { advertisers: [1] })
    expect(token).toMatchObject({ usedAt: null, state: 'good' })
    expect(JSON.stringify(await AccessToken.findAll({ raw: true }))).not.toContain(secret)
    const script = by(secret)
    expect((await script('GET', '/manifest')).body.advertisers.map(({ id }: { id: number }) => id)).toEqual([1])
    expect((await script('POST', '/market/run', { hours: 1 })).body.title).toBe('This token may not do this.')
    const [listed] = (await trader('GET', '/me/tokens')).body
    expect(listed.usedAt).toBeGreaterThan(0)
    // Nobody gives more than they have.
    const more = await trader('POST', '/me/tokens', { name: 'x', rights: ['read', 'money'], advertisers: null, days: 1 })
    expect(more.body.issues[0].field).toBe('rights')
    expect((await trader('POST', '/me/tokens', { name: 'x', rights: ['team'], advertisers: null, days: 1 })).body.issues[0].field).toBe(
      'rights[0]'
    )
    expect((await trader('POST', '/me/tokens', { name: 'x', rights: ['read'], advertisers: [77], days: 1 })).body.issues[0].field).toBe(
      'advertisers'
    )
    // Its owner lost a right since.
    const strong = await made(trader, { rights: ['read', 'clock'] })
    const setRole = (role: 'trader' | 'reader') =>
      server.deps.sequelize.transaction((transaction) => User.update({ role }, { where: { email: TRADER }, transaction }))
    await setRole('reader')
    expect((await by(strong.secret)('POST', '/market/run', { hours: 1 })).status).toBe(403)
    expect((await trader<AccessTokenMade['token'][]>('GET', '/me/tokens')).body[0]).toMatchObject({
      rights: ['read', 'clock'],
      now: ['read']
    })
    await setRole('trader')
    expect((await trader('DELETE', `/me/tokens/${strong.token.id}`)).body[0].state).toBe('revoked')
    expect((await by(strong.secret)('GET', '/me')).status).toBe(401)
    await server.deps.sequelize.transaction((transaction) => AccessToken.update({ expiresAt: 1 }, { where: { id: token.id }, transaction }))
    expect((await script('GET', '/me')).body.code).toBe('wrong-token')
  })

  it('makes no users, tokens or passwords, and comes with no cookie', async () => {
    const { secret } = await made(admin, { rights: ['read', 'draft', 'live', 'clock', 'money'] })
    const script = by(secret)
    for (const [method, path, body] of [
      ['POST', '/me/tokens', { name: 'x', rights: ['read'], advertisers: null, days: 1 }],
      ['PUT', '/me/password', { old: 'harbor-lights', password: 'another long one' }],
      ['GET', '/me/sessions', undefined],
      ['DELETE', '/session', undefined],
      ['GET', '/team', undefined],
      ['POST', '/team/invitations', asked('x@y.example')]
    ] as const)
      expect((await script(method, path, body)).status, `${method} ${path}`).toBe(403)
    const { cookie } = await server.signIn(ADMIN)
    const two = await server.nobody('GET', '/me', undefined, { cookie, authorization: `Bearer ${secret}` })
    expect([two.status, two.body.code]).toEqual([400, 'two-keys'])
    expect((await server.nobody('GET', '/me', undefined, { authorization: 'Basic eDp5' })).status).toBe(401)
  })

  it('that is guessed at is slowed down, and a right one goes on; each says how many calls are left', async () => {
    const { secret } = await made(await server.as(TRADER))
    const guesses: Answer[] = []
    for (let n = 0; n < 1000; n += 50)
      guesses.push(...(await Promise.all(Array.from({ length: 50 }, (_, g) => by(`tinharbor_${'x'.repeat(40)}${n + g}`)('GET', '/me')))))
    const count = (status: number) => guesses.filter((answer) => answer.status === status).length
    // A few of the wrong ones above count too.
    expect(count(401)).toBeLessThanOrEqual(60)
    expect(count(401)).toBeGreaterThan(40)
    expect(count(429)).toBe(1000 - count(401))
    expect(Number(guesses[999].headers.get('retry-after'))).toBeGreaterThan(0)
    const good = await by(secret)('GET', '/me')
    expect(good.status).toBe(200)
    expect(good.headers.get('ratelimit-policy')).toBe('"calls";q=600;w=60')
    expect(good.headers.get('ratelimit')).toMatch(/^"calls";r=599;t=\d+$/)
  })
})
