import type { CreativeDraft, FilmFit, PictureFit, Spoken, Feed, Mix, Plate } from '@tin-harbor/core/creative'
import type {
  AccessTokenDraft,
  CampaignDraft,
  DealAsk,
  Formats,
  Invitation,
  Member,
  Offer,
  PasteRead,
  LineDraft,
  SlipItem,
  FixableFinding,
  TrackerDraft
} from '@tin-harbor/core/buying'
import type {
  CampaignView,
  CompanyView,
  DealAskView,
  DealView,
  DealsView,
  FileTaken,
  FileReplaced,
  FileResults,
  FileView,
  FitView,
  OfferedDealView,
  ForecastLine,
  ForecastRecordView,
  HistoryEntry,
  ListView,
  LineView,
  LiveAnswer,
  LivePlan,
  AdStandings,
  MadeChoice,
  LinePreview,
  FeedItems,
  FeedMade,
  FeedSummary,
  FeedView,
  PlateDrawn,
  PlateMade,
  PlateSummary,
  PlateView,
  AdvertiserView,
  HitView,
  LinkChange,
  LinkLooked,
  MixMade,
  PageRead,
  PreviewLinkMade,
  PreviewLinkView,
  VastRead,
  MixSummary,
  MixView,
  ManifestView,
  MarketView,
  OpportunityTrace,
  OfferCame,
  OfferPage,
  OfferView,
  TestSent,
  ToldView,
  TrackerSetUp,
  TrackerView,
  Pace,
  PropertyView,
  ReportView,
  AccessTokenMade,
  AccessTokenView,
  InvitationMade,
  InvitationOpened,
  LedgerView,
  OutboxView,
  SessionView,
  TeamView,
  TrailView,
  PaymentView,
  ReviewsView,
  Results,
  ShopVisitsView,
  SlipsView,
  StagedForecast,
  SurveyView,
  TodayView,
  TraceView,
  UserView,
  SandboxView,
  TagRun
} from '@tin-harbor/core/contract'
import type { TopUp } from '@tin-harbor/core/money'
import type { Sought } from '@tin-harbor/core/exchange'
import type { Sentence, SurveyBy, SurveyQuestion } from '@tin-harbor/core/forecast'
import { get, post, postLines, put, remove, type RequestOptions } from './client.js'

export type { MadeChoice }
export { ApiError, isAbort, whenSignedOut } from './client.js'

/** This page's name, under which a newer question cancels an older one. */
const PAGE = `page-${Math.random().toString(36).slice(2, 10)}`

const query = (parts: Record<string, string | null | undefined>) =>
  new URLSearchParams(Object.entries(parts).filter((part): part is [string, string] => part[1] != null && part[1] !== '')).toString()

/** Every call the pages make. */
export const api = {
  signIn: (email: string, password: string) => post<undefined>('/session', { email, password }),
  signOut: () => remove<undefined>('/session'),
  me: () => get<UserView>('/me'),
  market: () => get<MarketView>('/market'),
  run: (hours: number) => post<undefined>('/market/run', { hours }),
  runTo: (to: number, secondsAnHour?: number) => post<undefined>('/market/run', { to, secondsAnHour }),
  stopRun: () => remove<undefined>('/market/run'),
  /** Each part of a page asks under a name of its own: a newer question of it cancels the older. */
  survey: (
    part: string,
    question: {
      sentence: Sentence
      by: readonly SurveyBy[]
      without: SurveyQuestion['without']
      bidMicros: number
      compare?: number[]
      offer?: number | null
    },
    options?: RequestOptions
  ) => post<SurveyView>('/market/survey', { page: `${PAGE}-${part}`, ...question }, options),
  offers: () => get<{ offers: OfferView[] }>('/offers'),
  offersOf: (advertiser: number) => get<OfferPage[]>(`/advertisers/${advertiser}/offers`),
  newOffer: (advertiser: number, offer: Offer) => post<OfferPage[]>(`/advertisers/${advertiser}/offers`, offer),
  saveOffer: (id: number, version: number, offer: Offer) => put<OfferPage[]>(`/offers/${id}`, { version, offer }),
  deleteOffer: (id: number) => remove<OfferPage[]>(`/offers/${id}`),
  offerCame: (id: number) => get<OfferCame>(`/offers/${id}/came`),
  trackersOf: (advertiser: number) => get<TrackerView[]>(`/advertisers/${advertiser}/trackers`),
  newTracker: (advertiser: number, tracker: TrackerDraft) => post<TrackerView[]>(`/advertisers/${advertiser}/trackers`, tracker),
  saveTracker: (id: number, version: number, tracker: TrackerDraft) => put<TrackerView[]>(`/trackers/${id}`, { version, tracker }),
  trackerSetUp: (id: number) => get<TrackerSetUp>(`/trackers/${id}/set-up`),
  trackerTold: (id: number) => get<ToldView[]>(`/trackers/${id}/told`),
  testTracker: (id: number) => post<TestSent>(`/trackers/${id}/test`, undefined),
  lists: () => get<{ lists: ListView[] }>('/lists'),
  createList: (advertiserId: number | null, list: { name: string; kind: ListView['kind']; values: string[]; group: null }) =>
    post<ListView>('/lists', { advertiserId, list }),
  saveList: ({
    id,
    ...change
  }: {
    id: number
    version: number
    rename: { from: string; to: string } | null
    add: string[]
    remove: string[]
  }) => put<ListView & { merged: boolean }>(`/lists/${id}`, change),
  deleteList: (id: number) => remove(`/lists/${id}`),
  readList: (kind: ListView['kind'], text: string, has: string[]) => post<PasteRead>('/lists/read', { kind, text, has }),
  deals: () => get<DealsView>('/deals'),
  askDeal: (ask: DealAsk) => post<DealAskView>('/deals/asks', ask),
  offeredDeals: () => get<{ offers: OfferedDealView[] }>('/deals/offers'),
  takeOffer: (offer: string) => post<DealView>('/deals/offers/take', { offer }),
  takeDeal: (id: number) => post<DealAskView>(`/deals/asks/${id}/take`, undefined),
  property: (code: string) => get<PropertyView>(`/market/property?${query({ property: code })}`),
  manifest: () => get<ManifestView>('/manifest'),
  campaign: (id: number) => get<{ campaign: CampaignView; pace: Pace }>(`/campaigns/${id}`),
  saveDailyBudgets: (id: number, parts: { line: number; version: number; dailyMicros: number }[]) =>
    put<void>(`/campaigns/${id}/daily-budgets`, { parts }),
  company: (id: number) => get<{ company: CompanyView | null }>(`/campaigns/${id}/company`),
  campaignToday: (id: number) => get<{ today: TodayView | null }>(`/campaigns/${id}/today`),
  lineToday: (id: number) => get<{ today: TodayView | null }>(`/lines/${id}/today`),
  createCampaign: (advertiserId: number, campaign: CampaignDraft) => post<CampaignView>(`/advertisers/${advertiserId}/campaigns`, campaign),
  saveCampaign: (id: number, version: number, campaign: CampaignDraft) => put<CampaignView>(`/campaigns/${id}`, { version, campaign }),
  createLine: (campaignId: number, line: LineDraft) => post<LineView>(`/campaigns/${campaignId}/lines`, line),
  line: (id: number) => get<LineView>(`/lines/${id}`),
  saveLine: (id: number, version: number, line: LineDraft) => put<LineView>(`/lines/${id}`, { version, line }),
  deleteDraft: (id: number) => remove<undefined>(`/lines/${id}`),
  /** What preflight says of a draft, saved or not. */
  preflight: (id: number, line: LineDraft, options?: RequestOptions) =>
    post<{ findings: FixableFinding[] }>(`/lines/${id}/preflight`, { line }, options),
  history: (id: number) => get<{ entries: HistoryEntry[] }>(`/lines/${id}/history`),
  /** Says that this line is looked at, and hears who else does, and which version it has by now. */
  here: (id: number) => post<{ others: string[]; version: number }>(`/lines/${id}/here`, {}),
  copyLine: (id: number, name: string, campaignId: number | null) => post<LineView>(`/lines/${id}/copy`, { name, campaignId }),
  moveToCampaign: (id: number, campaignId: number) => post<LineView>(`/lines/${id}/campaign`, { campaignId }),
  labelLine: (id: number, label: { tags?: string[]; template?: boolean }) => post<LineView>(`/lines/${id}/label`, label),
  slips: () => get<SlipsView>('/slips'),
  /** What staged edits are forecast to bring; it comes after the edits themselves. */
  stagedForecasts: () => get<{ expected: StagedForecast[] }>('/slips/expected'),
  createSlip: (name: string, items: SlipItem[]) => post<{ id: number }>('/slips', { name, items }),
  slipLive: (what: { id: number } | { name: string; items: SlipItem[] }, token: string) =>
    'id' in what
      ? post<{ id: number; lines: number; fromHour: number }>(`/slips/${what.id}/live`, { token })
      : post<{ id: number; lines: number; fromHour: number }>('/slips/live', { ...what, token }),
  takeBackSlip: (id: number) => post<undefined>(`/slips/${id}/take-back`, undefined),
  dropSlip: (id: number) => remove(`/slips/${id}`),
  livePlan: (id: number) => get<LivePlan>(`/lines/${id}/live-plan`),
  putLive: (id: number, version: number, token: string) => post<LiveAnswer>(`/lines/${id}/live`, { version, token }),
  moveLine: (id: number, move: 'release' | 'pause' | 'resume' | 'end') => post<LineView>(`/lines/${id}/move`, { move }),
  ownPrice: (id: number, placements: string[], ownMicros: number | null) =>
    post<LineView>(`/lines/${id}/own-price`, { placements, ownMicros }),
  leaveOut: (id: number, placements: string[], out: boolean) => post<LineView>(`/lines/${id}/left-out`, { placements, out }),
  addPicture: (id: number, file: File) => {
    const form = new FormData()
    form.append('file', file)
    return post<LineView>(`/lines/${id}/creatives`, form)
  },
  /** A file of the library onto a line. */
  addFile: (id: number, file: number) => post<LineView>(`/lines/${id}/files`, { file }),
  files: (advertiser: number) => get<FileView[]>(`/advertisers/${advertiser}/files`),
  finishUpload: (id: number) => post<FileTaken>(`/uploads/${id}/finish`, undefined),
  saveFile: (id: number, edit: { name: string; altText: string; tags: string[]; retired: boolean; version: number }) =>
    put<FileView>(`/files/${id}`, edit),
  filmFit: (id: number, fit: FilmFit) => post<FitView>(`/files/${id}/film-fit`, fit),
  pictureFit: (id: number, fit: PictureFit) => post<FitView>(`/files/${id}/picture-fit`, fit),
  fit: (id: number) => get<FitView>(`/fits/${id}`),
  stopFit: (id: number) => remove<FitView>(`/fits/${id}`),
  replaceFile: (id: number, wanted: { by: number; version: number }) => post<FileReplaced>(`/files/${id}/replace`, wanted),
  fileResults: (id: number) => get<FileResults>(`/files/${id}/results`),
  fileStrip: (id: number) => `/api/files/${id}/strip`,
  filePlayable: (id: number) => `/api/files/${id}/content?playable=yes`,
  makePlayable: (id: number) => post<FitView>(`/files/${id}/playable`),
  keepFrame: (id: number, second: number) => post<FitView>(`/files/${id}/frame`, { second }),
  speak: (advertiser: number, spoken: Spoken) => post<FitView>(`/advertisers/${advertiser}/spoken`, spoken),
  fileSandbox: (id: number) => get<SandboxView>(`/files/${id}/sandbox`),
  fileRan: (id: number, run: { address: string; left: string[] }) => post<FileView>(`/files/${id}/ran`, run),
  makeCreative: (advertiser: number, draft: CreativeDraft) => post<MadeChoice>(`/advertisers/${advertiser}/made-creatives`, draft),
  tagSandbox: (id: number) => get<SandboxView>(`/made-creatives/${id}/sandbox`),
  tagRan: (id: number, run: { address: string; left: string[] }) => post<TagRun>(`/made-creatives/${id}/ran`, run),
  plates: (advertiser: number) => get<PlateSummary[]>(`/advertisers/${advertiser}/plates`),
  newPlate: (advertiser: number, plate: Plate) => post<PlateView>(`/advertisers/${advertiser}/plates`, { plate }),
  plate: (id: number) => get<PlateView>(`/plates/${id}`),
  savePlate: (id: number, version: number, plate: Plate) => put<PlateView>(`/plates/${id}`, { version, plate }),
  deletePlate: (id: number) => remove<undefined>(`/plates/${id}`),
  drawPlate: (id: number, plate: Plate) => post<PlateDrawn[]>(`/plates/${id}/drawn`, { plate }),
  makePlate: (id: number, wanted: { version: number; line: number | null; replaces: boolean }) =>
    post<PlateMade>(`/plates/${id}/make`, wanted),
  feeds: (advertiser: number) => get<FeedSummary[]>(`/advertisers/${advertiser}/feeds`),
  newFeed: (advertiser: number, feed: Feed) => post<FeedView>(`/advertisers/${advertiser}/feeds`, { feed }),
  feed: (id: number) => get<FeedView>(`/feeds/${id}`),
  saveFeed: (id: number, version: number, feed: Feed) => put<FeedView>(`/feeds/${id}`, { version, feed }),
  readFeed: (id: number) => post<FeedView>(`/feeds/${id}/read`, undefined),
  deleteFeed: (id: number) => remove<undefined>(`/feeds/${id}`),
  feedItems: (id: number, show: string, from: number) => get<FeedItems>(`/feeds/${id}/items?show=${show}&from=${from}`),
  makeFeedAds: (id: number, items: readonly number[], line: number | null) => post<FeedMade>(`/feeds/${id}/ads`, { items, line }),
  mixes: (advertiser: number) => get<MixSummary[]>(`/advertisers/${advertiser}/mixes`),
  newMix: (advertiser: number, mix: Mix) => post<MixView>(`/advertisers/${advertiser}/mixes`, { mix }),
  mix: (id: number) => get<MixView>(`/mixes/${id}`),
  saveMix: (id: number, version: number, mix: Mix) => put<MixView>(`/mixes/${id}`, { version, mix }),
  deleteMix: (id: number) => remove<undefined>(`/mixes/${id}`),
  makeMix: (id: number, wanted: { version: number; line: number | null; takes: boolean }) => post<MixMade>(`/mixes/${id}/make`, wanted),
  lineHits: (line: number) => get<HitView[]>(`/lines/${line}/hits`),
  lineTold: (line: number) => get<ToldView[]>(`/lines/${line}/told`),
  changeLinks: (campaign: number, wanted: { find: string; replace: string; lines: { line: number; version: number }[] | null }) =>
    post<LinkChange[]>(`/campaigns/${campaign}/links`, wanted),
  lookAtLink: (link: string) => post<LinkLooked>('/links/looked', { link }),
  ledger: (month?: string) => get<LedgerView>(`/ledger${month === undefined ? '' : `?${new URLSearchParams({ month })}`}`),
  topUp: (asked: TopUp & { token: string }) => post<PaymentView>('/ledger/top-ups', asked),
  refund: (payment: number, asked: { token: string; amountMicros: number }) => post<PaymentView>(`/payments/${payment}/refunds`, asked),
  agreeCharge: (asked: { number: string; mostMicros: number }) => put<LedgerView>('/ledger/charge', asked),
  endCharge: () => remove<LedgerView>('/ledger/charge'),
  saveLowDays: (lowDays: number) => put<LedgerView>('/ledger/low-days', { lowDays }),
  saveMoneyTerms: (advertiser: number, asked: { version: number; limitMicros: number | null; marginPpm: number }) =>
    put<LedgerView>(`/advertisers/${advertiser}/money`, asked),
  team: () => get<TeamView>('/team'),
  saveMember: (id: number, asked: Member & { version: number }) => put<TeamView>(`/team/people/${id}`, asked),
  endSessionsOf: (id: number) => remove<TeamView>(`/team/people/${id}/sessions`),
  invite: (asked: Invitation) => post<InvitationMade>('/team/invitations', asked),
  revokeInvitation: (id: number) => remove<TeamView>(`/team/invitations/${id}`),
  trail: (asked: Readonly<Record<string, string>>) => get<TrailView>(`/team/trail?${query(asked)}`),
  openInvitation: (secret: string) => post<InvitationOpened>('/invitations/opened', { secret }),
  acceptInvitation: (asked: { secret: string; name: string; password: string }) => post<undefined>('/invitations/accepted', asked),
  forgotPassword: (email: string) => post<OutboxView>('/passwords/forgotten', { email }),
  newPassword: (asked: { secret: string; password: string }) => post<undefined>('/passwords/new', asked),
  changePassword: (asked: { old: string; password: string }) => put<undefined>('/me/password', asked),
  saveFormats: (formats: Formats) => put<undefined>('/me/formats', formats),
  sessions: () => get<SessionView[]>('/me/sessions'),
  endSession: (id: number) => remove<SessionView[]>(`/me/sessions/${id}`),
  tokens: () => get<AccessTokenView[]>('/me/tokens'),
  makeToken: (draft: AccessTokenDraft) => post<AccessTokenMade>('/me/tokens', draft),
  revokeToken: (id: number) => remove<AccessTokenView[]>(`/me/tokens/${id}`),
  reviews: () => get<ReviewsView>('/reviews'),
  answerRefusal: (review: number, text: string) => post<LineView>(`/reviews/${review}/answer`, { text }),
  saveTail: (advertiser: number, version: number, linkTail: string) =>
    put<AdvertiserView>(`/advertisers/${advertiser}/tail`, { version, linkTail }),
  readPages: (links: string) => post<PageRead[]>('/pages/read', { links }),
  readVast: (tag: string) => post<VastRead>('/vast/read', { tag }),
  vastUrl: (line: number, ad: number) => `/api/lines/${line}/ads/${ad}/vast`,
  shownVastUrl: (link: string, ad: number) => `/api/shown/vast?${query({ link, ad: String(ad) })}`,
  fetchFile: (advertiser: number, address: string) => post<FileTaken>(`/advertisers/${advertiser}/fetched-files`, { address }),
  linePreview: (id: number) => get<LinePreview>(`/lines/${id}/preview`),
  lineContentUrl: (id: number, sha256: string, playable: boolean) =>
    `/api/lines/${id}/content?${query({ sha256, playable: playable ? 'yes' : null })}`,
  previewLinks: (id: number) => get<PreviewLinkView[]>(`/lines/${id}/preview-links`),
  makePreviewLink: (id: number, days: number) => post<PreviewLinkMade>(`/lines/${id}/preview-links`, { days }),
  closePreviewLink: (id: number) => remove<undefined>(`/preview-links/${id}`),
  shown: (link: string) => get<LinePreview>(`/shown?${query({ link })}`),
  shownContentUrl: (link: string, sha256: string, playable: boolean) =>
    `/api/shown/content?${query({ link, sha256, playable: playable ? 'yes' : null })}`,
  file: (id: number) => get<FileView>(`/files/${id}`),
  fileUrl: (id: number) => `/api/files/${id}/content`,
  madeCreatives: (id: number) => get<MadeChoice[]>(`/lines/${id}/made-creatives`),
  addMadeCreatives: (id: number, creatives: readonly number[]) => post<LineView>(`/lines/${id}/ads`, { creatives }),
  removeAds: (id: number, ads: readonly number[]) => post<LineView>(`/lines/${id}/ads/removed`, { ads }),
  adStandings: (id: number) => get<AdStandings>(`/lines/${id}/ads/standing`),
  results: (id: number, from: string | null, to: string | null) => get<Results>(`/lines/${id}/results?${query({ from, to })}`),
  /** What our lines had of the traffic of a sentence. */
  bought: (asked: { by: string; from: string; to: string; sentence: Sentence }, options?: RequestOptions) =>
    post<ReportView>('/market/bought', asked, options),
  report: (
    asked: { by: string; from: string; to: string; windowHours: number; campaign: number | null; line: number | null },
    options?: RequestOptions
  ) =>
    get<ReportView>(
      `/reports?${query({ by: asked.by, from: asked.from, to: asked.to, windowHours: String(asked.windowHours), campaign: asked.campaign === null ? null : String(asked.campaign), line: asked.line === null ? null : String(asked.line) })}`,
      options
    ),
  forecastRecord: (campaign: number | null, line: number | null, options?: RequestOptions) =>
    get<ForecastRecordView>(
      `/forecast-record?${query({ campaign: campaign === null ? null : String(campaign), line: line === null ? null : String(line) })}`,
      options
    ),
  shopVisits: (campaignId: number, line: number | null, from: string, to: string, options?: RequestOptions) =>
    get<{ visits: ShopVisitsView | null }>(
      `/campaigns/${campaignId}/shop-visits?${query({ from, to, line: line === null ? null : String(line) })}`,
      options
    ),
  trace: (id: number, from: number | null, to: number | null, options?: RequestOptions) =>
    get<TraceView>(
      `/lines/${id}/trace?${query({ from: from === null ? null : String(from), to: to === null ? null : String(to) })}`,
      options
    ),
  opportunity: (hour: number, nth: number, options?: RequestOptions) =>
    get<OpportunityTrace>(`/opportunity?${query({ hour: String(hour), nth: String(nth) })}`, options),
  /** The next opportunity after one of an hour that became so for a line. */
  seekOpportunity: (hour: number, after: number, line: number, sought: Sought, options?: RequestOptions) =>
    get<OpportunityTrace>(`/opportunity?${query({ hour: String(hour), after: String(after), line: String(line), sought })}`, options),
  forecast: (
    campaignId: number,
    lineId: number | null,
    line: LineDraft,
    number: number,
    onLine: (line: ForecastLine) => void,
    options?: RequestOptions
  ) => postLines<ForecastLine>('/forecast', { page: `${PAGE}-f`, number, campaignId, lineId, line }, onLine, options),
  pictureUrl: (creativeId: number) => `/api/creatives/${creativeId}/picture`
}
