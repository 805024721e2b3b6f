import { flushPromises, mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Router } from 'vue-router'
import type { AccessTokenView, SessionView, TeamView as Team, TrailEntry, TrailView } from '@tin-harbor/core/contract'
import { count, marketTime, marks, money, shortDate, useFormats, weekStarts } from '@/composables/formats'
import * as files from '@/composables/save-file'
import MoneyField from '@/parts/MoneyField.vue'
import InvitationView from '@/views/sign-in/InvitationView.vue'
import NewPasswordView from '@/views/sign-in/NewPasswordView.vue'
import SignInView from '@/views/sign-in/SignInView.vue'
import AccountView from '@/views/team/AccountView.vue'
import TeamView from '@/views/team/TeamView.vue'
import { useMarket } from '@/stores/market'
import { useSession } from '@/stores/session'
import { settle, traderAt, type Request } from './support'

let requests: Request[]
let router: Router
beforeEach(() => {
  ;({ requests, router } = traderAt({ team: '/team', account: '/account', market: '/market', 'sign-in': '/sign-in' }))
  useFormats(null)
})
const asked = (path: string) => requests.filter((request) => request.path.startsWith(path))
const last = () => requests[requests.length - 1]
const plugins = () => ({ global: { plugins: [router] } })

const team = (over: Partial<Team> = {}): Team => ({
  people: [
    {
      id: 4,
      version: 2,
      name: 'Rui',
      email: 'rui@w.example',
      role: 'reader',
      allAdvertisers: false,
      advertisers: [1, 2],
      active: true,
      seenAt: null,
      sessions: 0,
      tokens: 0
    }
  ],
  invitations: [],
  advertisers: [
    { id: 1, name: 'Nightjar' },
    { id: 2, name: 'Ostler' }
  ],
  outbox: 'http://127.0.0.1:9/',
  ...over
})
const entry = (id: number, over: Partial<TrailEntry> = {}): TrailEntry => ({
  id,
  at: 1_796_000_000 - id,
  hour: 1450,
  who: 'Inês',
  did: 'changed the line',
  kind: 'line',
  object: 7,
  name: 'Display, GB',
  advertiser: 'Nightjar',
  slip: 'Winter',
  isDraft: true,
  changes: [{ field: 'price.bidMicros', before: '2.40', after: '2.64' }],
  ...over
})
const trail = (over: Partial<TrailView> = {}): TrailView => ({
  entries: [entry(9)],
  next: null,
  people: [{ id: 4, name: 'Rui' }],
  ...over
})

describe('the team', () => {
  async function shown(told: Team = team(), did: TrailView = trail()) {
    await router.push('/team')
    const view = mount(TeamView, plugins())
    await asked('/team')[0].reply({ body: told })
    await flushPromises()
    await asked('/team/trail')[0].reply({ body: did })
    await flushPromises()
    return view
  }

  it('says of each what they may as a sentence, and changes it', async () => {
    const view = await shown()
    expect(view.get('[data-test=person]').text()).toContain('Rui, rui@w.example: reads, forecasts included, for Nightjar and Ostler.')
    await view.get('[data-test=change-person]').trigger('click')
    await view.get('#person-4-role').setValue('trader')
    for (const box of view.findAll('[data-test=person] [data-test=advertiser]')) await box.setValue(false)
    await view.get('[data-test=person] form').trigger('submit')
    expect(view.text()).toContain('Choose an advertiser, or all of them.')
    await view.get('[data-test=person] [data-test=all-advertisers]').setValue(true)
    await view.get('[data-test=person] form').trigger('submit')
    await settle()
    expect(last()).toMatchObject({
      method: 'PUT',
      path: '/team/people/4',
      body: { version: 2, role: 'trader', allAdvertisers: true, active: true }
    })
    await last().reply({ status: 409, body: { title: 'Rui is the last admin: make somebody else one first.' } })
    await settle()
    expect(view.get('[data-test=person] [role=alert]').text()).toContain('last admin')
    await view.get('[data-test=left]').trigger('click')
    await settle()
    expect(last().body).toMatchObject({ active: false, role: 'reader', advertisers: [1, 2] })
    await last().reply({ body: team({ people: [{ ...team().people[0], version: 3, active: false }] }) })
    await settle()
    expect(view.get('[data-test=person]').text()).toContain('left, and may nothing')
  })

  it('asks somebody in, with a link that is shown once', async () => {
    const view = await shown()
    await view.get('[data-test=invite]').trigger('submit')
    await view.get('#invite-email').setValue('Nuno@W.example')
    await view.findAll('form').at(-1)?.trigger('submit')
    await settle()
    expect(last()).toMatchObject({ path: '/team/invitations', body: { email: 'Nuno@W.example', role: 'trader', allAdvertisers: true } })
    await last().reply({ body: { id: 1, link: 'http://x/invitation#secret', mailed: true } })
    await settle()
    expect(view.get('[data-test=invited]').text()).toContain('A letter went to nuno@w.example.')
    expect(view.get('[data-test=invited] a').attributes('href')).toBe('http://x/invitation#secret')
    const invitation = { id: 1, email: 'nuno@w.example', role: 'trader' as const, allAdvertisers: true, advertisers: [] }
    await last().reply({ body: team({ invitations: [{ ...invitation, madeBy: 'Marta', madeAt: 1, expiresAt: 1_796_000_000 }] }) })
    await settle()
    expect(view.get('[data-test=invitation]').text()).toContain('puts live, runs the market and steers, for all advertisers')
  })

  it('tells who did what as prose, with before and after, further back and as CSV', async () => {
    const save = vi.spyOn(files, 'saveTable').mockResolvedValue()
    const view = await shown(team(), trail({ next: 'abc' }))
    const words = view.get('[data-test=trail-entry]').text().replace(/\s+/g, ' ')
    expect(words).toContain('Inês changed the line Display, GB of Nightjar, on the slip “Winter”: Bid 2.40 → 2.64.')
    expect(words).toContain('Market: Mon 2 Mar, 10:00')
    await view.get('[data-test=trail-more]').trigger('click')
    await settle()
    expect(last().path).toBe('/team/trail?after=abc')
    await last().reply({
      body: trail({ entries: [entry(3, { isDraft: false, kind: 'user', did: 'changed the user', slip: null, changes: [] })] })
    })
    await settle()
    expect(view.findAll('[data-test=trail-entry]')).toHaveLength(2)
    await view.get('[data-test=trail-csv]').trigger('click')
    await settle()
    await last().reply({ body: trail({ next: 'more' }) })
    await settle()
    expect(last().path).toContain('after=more')
    await last().reply({ body: trail({ entries: [entry(1, { changes: [] })] }) })
    await settle()
    const [, { head, rows }] = save.mock.calls[0]
    expect(head).toContain('before')
    expect(rows.map((row) => row.slice(-3))).toEqual([
      ['Bid', '2.40', '2.64'],
      ['', '', '']
    ])
    await view.get('[data-test=trail-kind]').setValue('user')
    await settle()
    expect(last().path).toBe('/team/trail?kind=user')
    await last().reply({ body: trail({ entries: [] }) })
    await settle()
    expect(view.text()).toContain('Nothing of it was done.')
  })
})

describe('one’s own account', () => {
  const session = (id: number, over: Partial<SessionView> = {}): SessionView => ({
    id,
    madeAt: 1_796_000_000,
    seenAt: 1_796_000_000,
    agent: 'Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 Chrome/140.0 Safari/537.36',
    isThis: false,
    ...over
  })
  const token: AccessTokenView = {
    id: 3,
    name: 'Nightly',
    rights: ['read', 'draft'],
    now: ['read'],
    advertisers: [1],
    madeAt: 1,
    expiresAt: 1_796_000_000,
    usedAt: null,
    state: 'good'
  }
  async function shown() {
    useMarket().isKnown = true
    await router.push('/account')
    const view = mount(AccountView, plugins())
    await asked('/me/sessions')[0].reply({ body: [session(1, { isThis: true }), session(2)] })
    await asked('/me/tokens')[0].reply({ body: [token] })
    await flushPromises()
    return view
  }

  it('makes tokens of what one may, shows each once, and says where one may less by now', async () => {
    const view = await shown()
    expect(view.get('[data-test=token]').text()).toContain('never used; of this you may less by now, and so may it')
    // A trader has no money to give.
    expect(view.findAll('[data-test=token-right]')).toHaveLength(4)
    await view.get('#token-name').setValue('Report')
    await view.get('#token-days').setValue(400)
    await view.findAll('form')[0].trigger('submit')
    expect(view.text()).toContain('At most 366 days.')
    await view.get('#token-days').setValue(5)
    await view.findAll('form')[0].trigger('submit')
    await settle()
    expect(last()).toMatchObject({ path: '/me/tokens', body: { name: 'Report', rights: ['read'], advertisers: null, days: 5 } })
    await last().reply({ body: { secret: 'tinharbor_x', token: { ...token, id: 4, name: 'Report' } } })
    await settle()
    expect(view.get('[data-test=token-secret]').text()).toBe('tinharbor_x')
    await view.findAll('[data-test=revoke-token]')[0].trigger('click')
    await settle()
    expect(last()).toMatchObject({ method: 'DELETE', path: '/me/tokens/4' })
    await last().reply({ body: [{ ...token, state: 'revoked' }] })
    await settle()
    expect(view.get('[data-test=token]').text()).toContain('taken back')
  })

  it('writes figures and days as one likes, at once', async () => {
    const view = await shown()
    const now = () => view.get('[data-test=formats-now]').text()
    expect(now()).toContain('Mon 2 Mar, 10:00')
    await view.get('[data-test=numbers]').setValue('1.234,50')
    await view.get('[data-test=dates]').setValue('Mar 2')
    await view.get('#week').setValue('Sunday')
    await view.findAll('form')[1].trigger('submit')
    await settle()
    expect(last()).toMatchObject({ path: '/me/formats', body: { numbers: '1.234,50', dates: 'Mar 2', week: 'Sunday' } })
    await last().reply({})
    await settle()
    expect(now().replace(/\s/g, ' ')).toContain('1.234,50 €; Mon, Mar 2, 10:00')
    expect([count(1234), marks().decimal, weekStarts(), shortDate('2026-03-02')]).toEqual(['1.234', ',', 0, 'Mar 2'])
    expect(useSession().user?.formats?.week).toBe('Sunday')
    useFormats(null)
    expect([weekStarts(), money(1_000_000), marketTime(1450)]).toEqual([1, '€1.00', 'Mon 2 Mar, 10:00'])
  })

  it('shows amounts in fields as they are read from them again, also to a thousandth', async () => {
    for (const numbers of ['1,234.50', '1.234,50', '1 234,50', '1’234.50'] as const) {
      useFormats({ numbers, dates: '2 Mar', week: 'Monday' })
      for (const micros of [1_234_000, 2_400_000, 1_234_567_000, 5_000]) {
        const field = mount(MoneyField, { props: { id: 'm', modelValue: micros } })
        const input = field.get('input')
        const written = input.element.value
        await input.setValue('')
        await input.setValue(written)
        expect(field.emitted('update:modelValue')?.at(-1), `${numbers} ${written}`).toEqual([micros])
      }
      const typed = mount(MoneyField, { props: { id: 'm', modelValue: null } })
      await typed.get('input').setValue(numbers)
      expect(typed.emitted('update:modelValue')?.at(-1), numbers).toEqual([1_234_500_000])
    }
  })

  it('changes the password, and ends sessions elsewhere', async () => {
    const view = await shown()
    expect(view.findAll('[data-test=session]').map((one) => one.text())).toEqual([
      expect.stringContaining('Chrome 140 on Linux, here'),
      expect.stringContaining('Chrome 140 on Linux')
    ])
    await view.get('[data-test=end-session]').trigger('click')
    await settle()
    expect(last()).toMatchObject({ method: 'DELETE', path: '/me/sessions/2' })
    await last().reply({ body: [session(1, { isThis: true })] })
    await view.get('#old').setValue('old one')
    await view.get('#password').setValue('short')
    await view.findAll('form')[2].trigger('submit')
    expect(view.text()).toContain('A password has at least 10 letters.')
    await view.get('#password').setValue('long enough')
    await view.findAll('form')[2].trigger('submit')
    await settle()
    await last().reply({ status: 422, body: { title: 'x', issues: [{ field: 'old', message: 'This is not your password.' }] } })
    await settle()
    expect(view.text()).toContain('This is not your password.')
    await view.findAll('form')[2].trigger('submit')
    await settle()
    await last().reply({})
    await settle()
    expect(view.text()).toContain('you are signed out everywhere else')
  })
})

describe('who is not signed in', () => {
  it('asks for a letter, and learns nothing of who is here', async () => {
    const view = mount(SignInView, plugins())
    await settle()
    await view.get('#email').setValue('rui@w.example')
    await view.get('[data-test=forgot]').trigger('click')
    await settle()
    expect(last()).toMatchObject({ path: '/passwords/forgotten', body: { email: 'rui@w.example' } })
    await last().reply({ body: { outbox: 'http://127.0.0.1:9/' } })
    await settle()
    expect(view.get('[data-test=letter]').text()).toContain('If somebody here has this address')
  })

  it('sets a new password by the secret behind the address, which leaves it', async () => {
    window.history.replaceState({}, '', '/new-password#s3cret')
    const view = mount(NewPasswordView, plugins())
    expect(window.location.hash).toBe('')
    await settle()
    await view.get('#password').setValue('long enough')
    await view.get('form').trigger('submit')
    await settle()
    expect(last()).toMatchObject({ path: '/passwords/new', body: { secret: 's3cret', password: 'long enough' } })
    await last().reply({ status: 410, body: { title: 'This link was used, or is too old. Ask for another letter.' } })
    await settle()
    expect(view.get('[role=alert]').text()).toContain('too old')
    await view.get('form').trigger('submit')
    await settle()
    await last().reply({})
    await settle()
    expect(view.text()).toContain('you are signed out everywhere')
  })

  it('comes in by an invitation, with a name and a password', async () => {
    window.history.replaceState({}, '', '/invitation#in')
    const view = mount(InvitationView, plugins())
    await last().reply({ body: { email: 'nuno@w.example', role: 'reader', organisation: 'Wharfside' } })
    await settle()
    expect(view.get('[data-test=invitation]').text()).toContain('Wharfside asks nuno@w.example in at Tin Harbor: as reader, who reads')
    await view.get('form').trigger('submit')
    expect(view.text()).toContain('What is your name?')
    await view.get('#name').setValue('Nuno')
    await view.get('#password').setValue('long enough')
    await view.get('form').trigger('submit')
    await settle()
    expect(last()).toMatchObject({ path: '/invitations/accepted', body: { secret: 'in', name: 'Nuno', password: 'long enough' } })
    await last().reply({})
    await settle()
    await last().reply({ body: { id: 9, name: 'Nuno', email: 'nuno@w.example', role: 'reader', formats: null } })
    await settle()
    expect(router.currentRoute.value.name).toBe('market')
    window.history.replaceState({}, '', '/invitation#used')
    const other = mount(InvitationView, plugins())
    await last().reply({ status: 410, body: { title: 'This invitation was used, taken back, or is too old. Ask for another.' } })
    await settle()
    expect(other.get('[role=alert]').text()).toContain('Ask for another')
  })
})
