import type { Filter } from '@idrel/core/catalog';

/** A filter whose words are meant as they stand: in quotation marks, so that no other form of them is looked for. */
export function asTyped(filter: Filter): Filter {
  switch (filter.type) {
    case 'word':
      return { ...filter, whole: true };
    case 'not':
      return { type: 'not', of: asTyped(filter.of) };
    case 'is':
      return filter;
    default:
      return { type: filter.type, of: filter.of.map(asTyped) };
  }
}
