export const GOAL_MEASURES = ['wins', 'reach', 'views', 'visits', 'conversions'] as const
/** What of a forecast a campaign's goal is measured in. */
export type GoalMeasure = (typeof GOAL_MEASURES)[number]
