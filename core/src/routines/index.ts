export { type Guard, type Limit, limitOf } from './guard.ts';
