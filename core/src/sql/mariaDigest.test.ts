import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readMariaDigest } from './mariaDigest.ts';

const LONGEST = 1024;
const read = (digest: string) => readMariaDigest(digest, LONGEST);

describe('what MariaDB counts of a statement', () => {
  it.each([
    [
      'SELECT ID FROM `bookings` WHERE ID IN (...) AND `fare` IN (?) ',
      'SELECT ID FROM `bookings` WHERE ID IN ( ? ) AND `fare` IN ( ? )',
    ],
    ['INSERT INTO `d` . `sums` VALUES (...) /* , ... */ ', 'INSERT INTO `d` . `sums` VALUES ( ? )'],
    ['SELECT `a` FROM `t` LIMIT ?, ... ', 'SELECT `a` FROM `t` LIMIT ? , ?'],
    [
      'SELECT DATE_ADD ( NOW ( ) , INTERVAL ? SQL_TSI_DAY ) , @? FROM `t` ',
      'SELECT DATE_ADD ( NOW ( ) , INTERVAL ? DAY ) , ? FROM `t`',
    ],
    ['SELECT `a` FROM `t` WHERE `b` > DATE ? ', 'SELECT `a` FROM `t` WHERE `b` > ?'],
    ['SELECT `a (...) b` , `it``s ?` FROM `t` ', 'SELECT `a (...) b` , `it``s ?` FROM `t`'],
  ])('%s', (digest, statement) => {
    expect(read(digest)).toMatchObject({ statement });
    expect(read(digest).cut).toBeUndefined();
  });

  it('is told to people with less space', () => {
    expect(read('SELECT `b` . `email` , MAX ( `fare` ) FROM `d` . `b` ').text).toBe(
      'SELECT `b`.`email`, MAX (`fare`) FROM `d`.`b`',
    );
  });

  it('leaves open how many values a query shows in a row, but not how many a function takes or a limit', () => {
    expect(read('INSERT INTO `t` SELECT `a` , ?, ... , `b` FROM `s` ').cut).toBe('values');
    expect(read('SELECT `a` FROM ( SELECT ?, ... ) `x` ').cut).toBe('values');
    expect(read('INSERT INTO `t` SELECT COALESCE ( `a` , ?, ... ) FROM `s` LIMIT ?, ... ').cut).toBeUndefined();
    expect(read('SELECT ( SELECT MAX ( `a` ) FROM `t` ) , ?, ... FROM `s` ').cut).toBe('values');
  });

  it('is known to be cut by the room that it took', () => {
    const names = (count: number) =>
      Array.from({ length: count }, (_, at) => `\`name_${at}_with_letters\``).join(' , ');
    expect(read(`SELECT ${names(20)} FROM \`t\` `).cut).toBeUndefined();
    expect(read(`SELECT ${names(42)} `).cut).toBe('end');
  });

  it('loses no name', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.string({ minLength: 1, maxLength: 20 }).filter((name) => !/[\0\r\n]/.test(name)),
          { minLength: 1, maxLength: 8 },
        ),
        (names) => {
          const quoted = names.map((name) => `\`${name.replaceAll('`', '``')}\``);
          const { statement } = read(`SELECT ${quoted.join(' , ')} FROM \`t\` WHERE \`x\` IN (...) `);
          expect(statement).toBe(`SELECT ${quoted.join(' , ')} FROM \`t\` WHERE \`x\` IN ( ? )`);
        },
      ),
    );
  });
});
