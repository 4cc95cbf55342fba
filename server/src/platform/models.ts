import type { Model, ModelAttributes, ModelScopeOptions, ModelStatic } from 'sequelize';
import type { Db } from './database.ts';

/** How a table of things that are edited one at a time is kept: a model of Sequelize, which belongs to no connection yet. */
export interface ModelOf<Row extends object> {
  readonly table: string;
  /** Names as the code has them; in the database they are written with underscores. */
  readonly attributes: ModelAttributes<Model<Row, Partial<Row>>, Row>;
  /** Sequelize counts versions, and refuses to write over a version that is not the one it read. */
  readonly versioned?: true;
  readonly scopes?: ModelScopeOptions<Row>;
  /** What a row names in other tables, by its own name for it. */
  readonly belongsTo?: Readonly<Record<string, { readonly of: () => Related; readonly by: string }>>;
}
/** A model that another one names: of whatever rows. */
type Related = Pick<ModelOf<Record<string, unknown>>, 'table'>;

export type RowModel<Row extends object> = ModelStatic<Model<Row, Partial<Row>>>;

/** The model on the connections of a database. It is made the first time that it is asked for. */
export function modelIn<Row extends object>({ sequelize }: Pick<Db, 'sequelize'>, of: ModelOf<Row>): RowModel<Row> {
  if (sequelize.isDefined(of.table)) return sequelize.model(of.table) as RowModel<Row>;
  // Sequelize writes into what it is given, and columns are shared between models.
  const attributes = Object.fromEntries(
    Object.entries(of.attributes).map(([name, column]) => [name, typeof column === 'object' ? { ...column } : column]),
  ) as typeof of.attributes;
  const model = sequelize.define<Model<Row, Partial<Row>>>(of.table, attributes, {
    tableName: of.table,
    timestamps: false,
    underscored: true,
    version: of.versioned ? 'version' : false,
    scopes: of.scopes ?? {},
  });
  for (const [as, { of: other, by }] of Object.entries(of.belongsTo ?? {}))
    model.belongsTo(modelIn({ sequelize }, other() as ModelOf<Record<string, unknown>>), { as, foreignKey: by });
  return model;
}
