export { type Guard, type Limit, limitOf } from './guard.ts';
export {
  backwards,
  type Conditions,
  conditionsOf,
  type DayOfRoutine,
  holderOf,
  type Leaf,
  type Lived,
  replay,
  type Was,
} from './replay.ts';
