import { DataTypes } from 'sequelize';

// Columns that models of every area have, told once.
export const id = { type: DataTypes.UUID, primaryKey: true, defaultValue: DataTypes.UUIDV4 };
export const version = { type: DataTypes.INTEGER, allowNull: false, defaultValue: 1 };
export const text = { type: DataTypes.TEXT, allowNull: false };
export const texts = { type: DataTypes.ARRAY(DataTypes.TEXT), allowNull: false };
export const flag = { type: DataTypes.BOOLEAN, allowNull: false };
export const facts = { type: DataTypes.JSONB, allowNull: false };
/** The id of something that need not be there. */
export const reference = { type: DataTypes.UUID, allowNull: true };
export const optionalText = { type: DataTypes.TEXT, allowNull: true };
export const optionalFacts = { type: DataTypes.JSONB, allowNull: true };
export const optionalTexts = { type: DataTypes.ARRAY(DataTypes.TEXT), allowNull: true };
export const moment = { type: DataTypes.DATE, allowNull: true };
export const whole = { type: DataTypes.INTEGER, allowNull: false };
export const share = { type: DataTypes.DOUBLE, allowNull: false };
