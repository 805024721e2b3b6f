import { DataTypes, type InferAttributes, type InferCreationAttributes, type Model, type ModelStatic } from 'sequelize'

export type Row<M extends Model> = InferAttributes<M>
export type New<M extends Model> = InferCreationAttributes<M>

// Sequelize writes into the definitions it is given, so each column gets one of its own.
export const id = () => ({ type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true })
export const key = () => ({ type: DataTypes.INTEGER, primaryKey: true })
export const int = () => ({ type: DataTypes.INTEGER, allowNull: false })
export const maybe = () => ({ type: DataTypes.INTEGER, allowNull: true })
export const text = () => ({ type: DataTypes.STRING, allowNull: false })
export const maybeText = () => ({ type: DataTypes.STRING, allowNull: true })
export const flag = (defaultValue: boolean) => ({ type: DataTypes.BOOLEAN, allowNull: false, defaultValue })
export const version = () => ({ ...int(), defaultValue: 1 })

/** What the exchange has read must stay as it was read. */
export function keepAsMade(model: ModelStatic<Model>): void {
  const refuse = () => {
    throw new Error(`A ${model.name} is never changed; make a new one.`)
  }
  model.addHook('beforeUpdate', refuse)
  model.addHook('beforeBulkUpdate', refuse)
  model.addHook('beforeDestroy', refuse)
  model.addHook('beforeBulkDestroy', refuse)
}
