import fc from 'fast-check';
import { expect, it } from 'vitest';
import { placeInFile, placeOf, readPlace, sqlName } from './addresses.ts';

it('a readable address leads back to what it names, whatever that is called', () => {
  expect(placeOf('Booking system', ['booking', 'passenger'])).toBe('/at/Booking%20system/booking/passenger');
  expect(placeInFile('Booking system', ['a/b', '..'])).toBe('Booking system/a%2Fb/~..');
  const name = fc.string({ unit: 'grapheme', minLength: 1, maxLength: 12 });
  fc.assert(
    fc.property(name, fc.array(name, { maxLength: 4 }), (source, names) => {
      const address = placeOf(source, names);
      // As a browser has it, which takes steps out of an address.
      const seen = new URL(address, 'http://localhost').pathname;
      expect(readPlace(seen)).toEqual({ source, names });
      expect(readPlace(`/at/${placeInFile(source, names)}`)).toEqual({ source, names });
    }),
    {
      examples: [
        ['..', ['.', '..']],
        ['a/b', ['c?d#e', '%2e']],
      ],
    },
  );
  for (const none of ['', '/at', '/assets/x', '/at/', '/at/%E0%A4%A', 'at/x']) expect(readPlace(none)).toBeUndefined();
});

it('a name in SQL is quoted where it must be, as its dialect does', () => {
  expect(sqlName('postgresql', ['core', 'passenger'])).toBe('core.passenger');
  expect(sqlName('postgresql', ['Core', 'order', 'a"b'])).toBe('"Core"."order"."a""b"');
  expect(sqlName('mariadb', ['my table', 'user', 'a`b'])).toBe('`my table`.`user`.`a``b`');
  expect(sqlName('folder', ['x'])).toBeNull();
  expect(sqlName('postgresql', [])).toBeNull();
});
