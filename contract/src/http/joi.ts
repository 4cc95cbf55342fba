import Base, { type CustomHelpers, type Root } from 'joi';

/** U+0000, which no database keeps, and halves of characters, which no encoding knows. */
const UNKEEPABLE = /\0|[\uD800-\uDBFF](?![\uDC00-\uDFFF])|(?<![\uD800-\uDBFF])[\uDC00-\uDFFF]/;

/** The first text or name in a value of any form that cannot be kept, as a path; undefined when there is none. */
function unkeepable(value: unknown, path: string): string | undefined {
  if (typeof value === 'string') return UNKEEPABLE.test(value) ? path : undefined;
  if (value === null || typeof value !== 'object') return undefined;
  for (const [key, inner] of Object.entries(value)) {
    const found = UNKEEPABLE.test(key) ? path : unkeepable(inner, path === '' ? key : `${path}.${key}`);
    if (found !== undefined) return found;
  }
  return undefined;
}

const messages = {
  'text.unkeepable': '{{#label}} holds a character that cannot be kept: U+0000, or half of a character',
  'free.unkeepable': '{{#label}} holds, at {{#at}}, a character that cannot be kept: U+0000, or half of a character',
};

/**
 * The schemas of Idrel: Joi, with texts that can be kept. Every text says so itself; of values of any form ({@link free}) each text within is looked at.
 */
export const Joi: Root = Base.extend({
  type: 'string',
  base: Base.string(),
  messages,
  validate: (value: unknown, helpers: CustomHelpers) =>
    typeof value === 'string' && UNKEEPABLE.test(value)
      ? { value, errors: helpers.error('text.unkeepable') }
      : undefined,
}) as Root;

/** An object of any form, as far as it can be kept. */
export const free = (): ReturnType<Root['object']> =>
  Joi.object()
    .unknown(true)
    .custom((value: unknown, helpers) => {
      const at = unkeepable(value, '');
      return at === undefined ? value : helpers.error('free.unkeepable', { at: at || 'the top' });
    })
    .messages(messages);

/** An id as Idrel writes it: 36 small letters, digits and hyphens. */
export const id = Joi.string()
  .pattern(/^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/)
  .messages({
    'string.pattern.base': '{{#label}} is not an id: 36 characters as in 6e3f0b0e-0000-4000-8000-000000000000',
  });
