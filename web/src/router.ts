import { createRouter, createWebHistory } from 'vue-router'
import { useSession } from './stores/session'

const campaigns = () => import('./views/campaigns/CampaignsView.vue')
const number = String.raw`(\d+)`

/** The address holds the state of a view: a link shows a colleague the same thing. */
export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', redirect: { name: 'market' } },
    {
      path: '/sign-in',
      name: 'sign-in',
      component: () => import('./views/sign-in/SignInView.vue'),
      meta: { open: true, title: 'Sign in' }
    },
    { path: '/market', name: 'market', component: () => import('./views/market/MarketView.vue'), meta: { title: 'Market' } },
    { path: '/market/lists', name: 'lists', component: () => import('./views/market/ListsView.vue'), meta: { title: 'Lists' } },
    { path: '/market/deals', name: 'deals', component: () => import('./views/market/DealsView.vue'), meta: { title: 'Deals' } },
    {
      path: '/market/properties/:property',
      name: 'property',
      component: () => import('./views/market/PropertyPage.vue'),
      meta: { title: 'Property' }
    },
    {
      path: '/campaigns',
      component: campaigns,
      meta: { title: 'Campaigns' },
      children: [
        { path: '', name: 'campaigns', component: () => import('./views/campaigns/CampaignsStart.vue') },
        { path: 'new', name: 'new-campaign', component: () => import('./views/campaigns/CampaignForm.vue') },
        { path: `:campaignId${number}`, name: 'campaign', component: () => import('./views/campaigns/CampaignPage.vue') },
        // Lines begin on the page of their campaign.
        { path: `:campaignId${number}/lines/new`, redirect: ({ params }) => ({ name: 'campaign', params, hash: '#new-line' }) },
        { path: `:campaignId${number}/edit`, name: 'edit-campaign', component: () => import('./views/campaigns/CampaignForm.vue') },
        { path: 'review', name: 'review', component: () => import('./views/review/ReviewView.vue') },
        { path: `sold/:advertiserId${number}`, name: 'sold', component: () => import('./views/sold/SoldView.vue') },
        { path: `lines/:lineId${number}`, name: 'line', component: () => import('./views/line/LinePage.vue') },
        { path: `lines/:lineId${number}/results`, name: 'results', component: () => import('./views/line/LineResults.vue') }
      ]
    },
    { path: '/creatives', name: 'creatives', component: () => import('./views/creatives/CreativesView.vue'), meta: { title: 'Creatives' } },
    {
      path: `/creatives/plates/:plateId${number}`,
      name: 'plate',
      component: () => import('./views/plates/PlateView.vue'),
      meta: { title: 'Plate' }
    },
    {
      path: `/creatives/feeds/:feedId${number}`,
      name: 'feed',
      component: () => import('./views/feeds/FeedView.vue'),
      meta: { title: 'Feed' }
    },
    {
      path: `/creatives/mixes/:mixId${number}`,
      name: 'mix',
      component: () => import('./views/mixer/MixView.vue'),
      meta: { title: 'Mixer' }
    },
    {
      path: `/campaigns/lines/:lineId${number}/in-place`,
      name: 'in-place',
      component: () => import('./views/in-place/InPlaceView.vue'),
      meta: { title: 'In place' }
    },
    { path: '/shown/:link', name: 'shown', component: () => import('./views/in-place/ShownView.vue'), meta: { title: 'Ads', open: true } },
    {
      path: '/creatives/specification',
      name: 'specification',
      component: () => import('./views/creatives/SpecificationView.vue'),
      meta: { title: 'What slots take' }
    },
    { path: '/reports', name: 'reports', component: () => import('./views/reports/ReportsView.vue'), meta: { title: 'Reports' } },
    {
      path: '/reports/forecasts',
      name: 'forecasts',
      component: () => import('./views/reports/ForecastsView.vue'),
      meta: { title: 'Forecasts' }
    },
    {
      path: `/reports/trace/:lineId${number}`,
      name: 'trace',
      component: () => import('./views/reports/TraceView.vue'),
      meta: { title: 'Trace' }
    },
    { path: '/ledger', name: 'ledger', component: () => import('./views/ledger/LedgerView.vue'), meta: { title: 'Ledger' } },
    { path: '/team', name: 'team', component: () => import('./views/team/TeamView.vue'), meta: { title: 'Team' } },
    { path: '/account', name: 'account', component: () => import('./views/team/AccountView.vue'), meta: { title: 'Your account' } },
    {
      path: '/invitation',
      name: 'invitation',
      component: () => import('./views/sign-in/InvitationView.vue'),
      meta: { title: 'You are asked in', open: true }
    },
    {
      path: '/new-password',
      name: 'new-password',
      component: () => import('./views/sign-in/NewPasswordView.vue'),
      meta: { title: 'A new password', open: true }
    },
    { path: '/words', name: 'words', component: () => import('./views/WordsView.vue'), meta: { title: 'Words' } },
    { path: '/:rest(.*)*', name: 'nowhere', component: () => import('./views/NowhereView.vue'), meta: { title: 'Not found' } }
  ]
})

router.beforeEach(async (to) => {
  // Who was given a link has nothing to do with who is signed in.
  if (to.meta.open && to.name !== 'sign-in') return true
  const session = useSession()
  if (session.user === undefined) {
    // The page is fetched while the server says who is signed in; the router waits for both.
    for (const { components } of to.matched) {
      const page: unknown = components?.default
      if (typeof page === 'function') void (page as () => Promise<unknown>)().catch(() => undefined)
    }
    await session.load()
  }
  if (!session.isSignedIn && !to.meta.open) return { name: 'sign-in', query: { to: to.fullPath } }
  return true
})

router.afterEach((to) => {
  document.title = to.meta.title ? `${String(to.meta.title)} · Tin Harbor` : 'Tin Harbor'
})
