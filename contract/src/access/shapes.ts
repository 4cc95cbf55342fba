import { type HowFar, type Mask, type Opens, PART_MOST, STEPS, type ToldAccess } from '@idrel/core/access';
import { either, Joi, like, list, moment, nullable, oneOf, shape, typed, withDefault } from '../http/index.ts';

/** So long may a purpose be. */
export const PURPOSE_LONGEST = 120;
export const purpose = Joi.string().trim().min(1).max(PURPOSE_LONGEST);
const keyed = oneOf(['installation', 'organisation']);
const part = Joi.number().integer().min(0).max(PART_MOST);
const without = typed<null>(Joi.valid(null));
const stepOf = (to: keyof typeof STEPS) => {
  const { least, most } = STEPS[to];
  const step = Joi.number().min(least).max(most);
  return to === 'rounded' ? step : step.integer();
};
/** How values are masked. */
export const mask = like<Mask>()(
  either(
    shape({ kind: oneOf(['blank']) }),
    shape({ kind: oneOf(['fixed']), text: Joi.string().trim().min(1).max(60) }),
    shape({ kind: oneOf(['partial']), first: part, last: part }),
    shape({ kind: oneOf(['digest', 'substitute']), keyed }),
    shape({ kind: oneOf(['general']), to: oneOf(['year', 'month', 'host']), step: without }),
    shape({ kind: oneOf(['general']), to: oneOf(['age']), step: stepOf('age') }),
    shape({ kind: oneOf(['general']), to: oneOf(['district']), step: stepOf('district') }),
    shape({ kind: oneOf(['general']), to: oneOf(['rounded']), step: stepOf('rounded') }),
    shape({ kind: oneOf(['noise']), spread: Joi.number().min(0.01).max(1e12), of: oneOf(['unit', 'percent']) }),
  ),
);
/** So many different values an answer must be about where rows are told only together. */
export const least = Joi.number().integer().min(2).max(1000);
/** As of when something is asked. */
export const asOf = withDefault(nullable(moment), null).description(
  'As of this moment; null for now. What is known begins with the version of Idrel that keeps it.',
);
/** How a column is read; `preview` is what a few rows are shown of, and no statement reads. */
export const access = like<ToldAccess>()(oneOf(['plain', 'masked', 'preview', 'refused']));
/** How far an allow opens. */
export const opens = like<Opens>()(oneOf(['read', 'preview']));
/** The same, and that it is only seen. */
export const howFar = like<HowFar>()(oneOf(['read', 'preview', 'see']));

const time = Joi.string().pattern(/^([01]\d|2[0-3]):[0-5]\d$/, 'a time such as 08:00');
/** Days and hours at which a policy holds. */
export const hours = shape({
  days: list(Joi.number().integer().min(1).max(7)).min(1).unique().description('Of the week, 1 for Monday.'),
  from: time,
  to: time.description('Not after `from`: on the next day.'),
  zone: Joi.string().max(60).description('A time zone, such as `Europe/Oslo`.'),
});
