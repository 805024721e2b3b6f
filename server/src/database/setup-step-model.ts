import { Model, type Sequelize } from 'sequelize'
import { text, type Row, type New } from './columns.js'

/** Steps of the demo's set-up that are done, so that a start that was cut off goes on where it was. */
export class SetupStep extends Model<Row<SetupStep>, New<SetupStep>> {
  declare name: string
}

/** Ties the model to a connection. */
export function defineSetupSteps(sequelize: Sequelize): void {
  SetupStep.init({ name: { ...text(), primaryKey: true } }, { sequelize, tableName: 'setup_step' })
}
