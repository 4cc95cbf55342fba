import { readScript, SchemaCatalog } from '@idrel/core/lineage';
import { loadParser } from '@idrel/core/sql';
import type { RowDataPacket } from 'mysql2';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readMariaScript } from '../../core/src/sql/mariadb.ts';
import { type MariaServer, startMariaDb } from './mariadbServer.ts';

/** A script in MariaDB's own words: what its client reads, and what PostgreSQL's parser does not. */
const SCRIPT = `
/*!40101 SET NAMES utf8mb4 */;
# a comment; with a semicolon
USE ferry;
CREATE TABLE IF NOT EXISTS \`crew\` (
  \`id\` int(11) unsigned NOT NULL AUTO_INCREMENT COMMENT 'it''s; odd', name varchar(80) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin DEFAULT "no; one",
  \`Rank\` enum('mate','bos\\'n') NOT NULL, pay decimal(9,2) DEFAULT 0, born date, \`user\` int, twice decimal(9,2) AS (pay * 2) STORED,
  PRIMARY KEY (id), KEY \`by_name\` (name(10)), CONSTRAINT positive CHECK (pay >= 0)
) ENGINE=InnoDB AUTO_INCREMENT=7 DEFAULT CHARSET=utf8mb4;
CREATE TABLE shift (crew_id int unsigned, hours int, note text, starts datetime, UNIQUE KEY one (crew_id, starts)) ENGINE=InnoDB;
CREATE TABLE archive LIKE shift;
CREATE TABLE total ENGINE=InnoDB AS SELECT crew_id, SUM(hours) AS hours FROM shift GROUP BY crew_id WITH ROLLUP;
CREATE OR REPLACE ALGORITHM=MERGE DEFINER=\`root\`@\`%\` SQL SECURITY INVOKER VIEW v1 AS
  SELECT SQL_NO_CACHE c.ID, IF(c.pay > 10 && c.born <=> NULL, 'much', "little") AS \`How Much\`, c.Rank 'the rank' FROM crew c USE INDEX (by_name) WHERE c.name REGEXP '^A' OR NOT c.name RLIKE 'b' LIMIT 2, 5;
CREATE VIEW v2 (who, all_notes, n) AS
  SELECT c.name, GROUP_CONCAT(DISTINCT s.note ORDER BY s.starts SEPARATOR '; '), COUNT(*) FROM crew c STRAIGHT_JOIN shift s ON s.crew_id = c.id GROUP BY c.name HAVING COUNT(*) > 1;
CREATE VIEW v3 AS SELECT DATE_ADD(s.starts, INTERVAL s.hours HOUR) AS ends, s.starts - INTERVAL 1 DAY AS eve, TIMESTAMPDIFF(YEAR, c.born, s.starts) AS age, CAST(s.hours AS UNSIGNED) DIV 2 AS half, CONVERT(s.note USING utf8mb4) AS note
  FROM shift s LEFT JOIN crew c ON c.id = s.crew_id;
CREATE VIEW v4 AS SELECT * FROM crew NATURAL JOIN (SELECT crew_id AS id, hours FROM shift) h;
CREATE VIEW v5 AS SELECT crew_id, starts, a.note, s.hours FROM shift s JOIN archive a USING (crew_id, starts);
CREATE VIEW v6 AS WITH RECURSIVE n (i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 5) SELECT n.i, c.\`user\` FROM n JOIN crew c ON c.id = n.i;
CREATE VIEW v7 AS SELECT CONCAT(name, _utf8mb4' !' COLLATE utf8mb4_bin) AS shout, pay ^ 1 AS flipped, pay XOR 0 AS odd, CURRENT_TIMESTAMP() AS now_ FROM crew;
INSERT IGNORE INTO archive (crew_id, hours) SELECT crew_id, hours FROM shift ON DUPLICATE KEY UPDATE hours = VALUES(hours) + archive.hours;
REPLACE INTO archive SET note = 'it\\'s; kept', crew_id = 4;
UPDATE LOW_PRIORITY crew c JOIN total t ON t.crew_id = c.id SET c.pay = c.pay + t.hours * 2 WHERE c.name <> '';
DELETE a FROM archive a INNER JOIN crew c ON c.id = a.crew_id WHERE c.pay = 0;
ALTER TABLE total ADD COLUMN email varchar(100) AFTER crew_id, ADD KEY (email), CHANGE \`hours\` spent int;
CREATE VIEW v8 AS SELECT spent, email FROM total;
DELIMITER //
CREATE TRIGGER noted BEFORE INSERT ON shift FOR EACH ROW BEGIN SET NEW.note = 'a;b'; SET NEW.hours = 1; END//
DELIMITER ;
INSERT INTO shift VALUES (1, 2, 'x', NOW()), (2, 3, NULL, NOW());
`;

let server: MariaServer;
const catalog = new SchemaCatalog(['main'], 'mariadb');
let script: ReturnType<typeof readScript>;
const edgesOf = (relation: string, at = 0) => {
  const found = script.statements.filter((statement) => statement.target.relation === relation)[at];
  return (found?.edges ?? []).map(({ from, to, kind }) => `${from.relation}.${from.column} > ${to} ${kind}`).sort();
};

beforeAll(async () => {
  await loadParser();
  script = readScript(SCRIPT, catalog);
  server = await startMariaDb();
  await server.admin.query('create database ferry; use ferry');
  // The driver knows no DELIMITER: the server gets each statement as the client would send it.
  const plain = SCRIPT.replace(/DELIMITER \/\/\n([\s\S]*?)\/\/\nDELIMITER ;/, '$1;');
  await server.admin.query(plain);
});
afterAll(() => server?.stop());

describe('a script of MariaDB', () => {
  it('is read whole: nothing is lost, and what a trigger does is told as not traced', () => {
    expect(script.unresolved.map(({ reason, lost }) => [reason, lost])).toEqual([
      ['what a trigger does is not traced', false],
    ]);
  });

  it('gives its views the columns that the server gives them, in the same order', async () => {
    const [rows] = await server.admin.query<RowDataPacket[]>(
      "select lower(table_name) as name, lower(column_name) as col from information_schema.columns where table_schema = 'ferry' order by 1, ordinal_position",
    );
    const columns = new Map<string, string[]>();
    for (const row of rows as { name: string; col: string }[])
      columns.set(row.name, [...(columns.get(row.name) ?? []), row.col]);
    expect([...columns.keys()]).toEqual([
      'archive',
      'crew',
      'shift',
      'total',
      'v1',
      'v2',
      'v3',
      'v4',
      'v5',
      'v6',
      'v7',
      'v8',
    ]);
    for (const [name, list] of columns) {
      const known = catalog.relation(undefined, name)?.columns ?? [];
      // Where a column that is added stands is of no account to lineage.
      expect([name, name === 'total' ? [...known].sort() : known]).toEqual([
        name,
        name === 'total' ? [...list].sort() : list,
      ]);
    }
  });

  it('traces columns through its own functions and words', () => {
    expect(edgesOf('v1')).toEqual(expect.arrayContaining(['crew.id > id copied', 'crew.rank > the rank copied']));
    expect(edgesOf('v2')).toEqual(expect.arrayContaining(['crew.name > who copied']));
    expect(edgesOf('v2').filter((edge) => edge.includes('all_notes'))).toEqual(
      expect.arrayContaining([expect.stringContaining('shift.note > all_notes')]),
    );
    expect(edgesOf('v3')).toEqual(
      expect.arrayContaining([
        'shift.starts > ends transformed',
        'shift.hours > ends transformed',
        'shift.starts > eve transformed',
        'crew.born > age transformed',
        'shift.hours > half transformed',
      ]),
    );
    expect(edgesOf('v5')).toEqual(expect.arrayContaining(['archive.note > note copied', 'shift.hours > hours copied']));
    expect(edgesOf('v6')).toEqual(expect.arrayContaining(['crew.user > user copied']));
    expect(edgesOf('v8')).toEqual(['total.email > email copied', 'total.spent > spent copied']);
    expect(edgesOf('total')).toEqual(
      expect.arrayContaining(['shift.crew_id > crew_id copied', 'shift.hours > hours aggregated']),
    );
  });

  it('traces what writes: INSERT with ON DUPLICATE KEY, UPDATE of joined tables, DELETE by another table', () => {
    expect(edgesOf('archive', 0)).toEqual(
      expect.arrayContaining(['shift.crew_id > crew_id copied', 'shift.hours > hours copied']),
    );
    expect(
      script.statements
        .find(
          (statement) =>
            statement.target.relation === 'crew' && statement.edges.some((edge) => edge.from.relation === 'total'),
        )
        ?.edges.map((edge) => edge.to),
    ).toContain('pay');
    expect(
      script.statements.some(
        (statement) =>
          statement.target.relation === 'archive' &&
          statement.influences.some(
            (influence) => influence.from.relation === 'crew' && influence.from.column === 'pay',
          ),
      ),
    ).toBe(true);
  });

  it('names what it does not follow, with its line, and goes on', () => {
    const { pieces, notes } = readMariaScript(
      'select 1;\nupdate a, b set a.x = 1, b.y = 2;\nload data infile "f" into table a;\nselect 2',
    );
    expect(pieces.map(({ line }) => line)).toEqual([1, 4]);
    expect(notes).toMatchObject([
      { line: 2, lost: true, reason: expect.stringContaining('several tables') },
      { line: 3, lost: false },
    ]);
  });
});
