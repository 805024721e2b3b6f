import { ROLES } from '../buying/roles.js'
import { oneOf, shape, text, type TypeOf } from './shapes.js'

/** The signed-in user. */
export const userView = shape({ name: text(), email: text(), role: oneOf(ROLES) })
export type UserView = TypeOf<typeof userView>
