export { type Aim, type AimState, aimOf } from './aim.ts';
export { type Change, courseOf, type Step, sampled } from './course.ts';
