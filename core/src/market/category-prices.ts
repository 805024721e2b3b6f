import { CATEGORIES } from '../taxonomy/index.js'

/** What rivals pay for the readers of a subject, by branch: dear where one customer is worth much. */
const BRANCHES: Readonly<Record<string, number>> = {
  money: 1.6,
  motoring: 2.9,
  health: 2.95,
  business: 1.4,
  property: 1.3,
  travel: 1.15,
  technology: 1.15,
  careers: 1.1,
  education: 1.1,
  family: 1.05,
  style: 1.05,
  home: 1,
  cycling: 1,
  languages: 0.95,
  sport: 0.95,
  science: 0.9,
  nature: 0.9,
  news: 0.85,
  arts: 0.85,
  music: 0.8,
  food: 0.62,
  adult: 0.6,
  pets: 0.5,
  games: 0.5
}
/** Subjects that differ from their branch. */
const LEAVES: Readonly<Record<string, number>> = {
  'home loans': 3.3,
  insurance: 3.3,
  'business software': 3.1,
  cooking: 0.5,
  baking: 0.5,
  recipes: 0.5,
  wine: 0.9,
  humour: 0.5
}
/** Price of each category's pages against the mean. */
export const CATEGORY_PRICE: readonly number[] = CATEGORIES.map(
  (category) => LEAVES[category.name] ?? BRANCHES[CATEGORIES[category.branch].name] ?? 1
)

/** Subjects that are bought for while people work, and how much dearer they are then and cheaper at weekends. */
const OF_BUSINESS = new Set(['business', 'money', 'careers'])
const ON_WEEKDAYS = 1.1
const AT_WEEKENDS = 0.82

/** Price of each category's pages on a day, by whether it is one of the weekend. */
export const categoryPrices = (weekend: boolean): readonly number[] =>
  CATEGORIES.map(
    (category, n) => CATEGORY_PRICE[n] * (OF_BUSINESS.has(CATEGORIES[category.branch].name) ? (weekend ? AT_WEEKENDS : ON_WEEKDAYS) : 1)
  )
