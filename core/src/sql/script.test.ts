import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { loadParser, parseScript } from './index.ts';
import { splitScript } from './script.ts';

beforeAll(() => loadParser());
const texts = (sql: string) => splitScript(sql).pieces.map((piece) => piece.text);
const reasons = (sql: string) => splitScript(sql).notes.map((note) => `${note.line}: ${note.reason}`);

describe('a script is split as psql splits it', () => {
  it.each([
    [
      'quotation marks',
      `select ';', "a;b", e'it\\';s', 'it'';s'; select 2`,
      [`select ';', "a;b", e'it\\';s', 'it'';s'`, 'select 2'],
    ],
    [
      'dollar quotes',
      'select $$;$$, $x$ $$;$$ $x$; select a$b$ from t; select 2',
      ['select $$;$$, $x$ $$;$$ $x$', 'select a$b$ from t', 'select 2'],
    ],
    [
      'comments within comments',
      'select 1 /* ; /* ; */ ; */ + 1; -- ; \nselect 2',
      ['select 1 /* ; /* ; */ ; */ + 1', '-- ; \nselect 2'],
    ],
    [
      'brackets',
      'create rule r as on insert to t do also (insert into a values (1); delete from b); select 2',
      ['create rule r as on insert to t do also (insert into a values (1); delete from b)', 'select 2'],
    ],
    [
      'bodies of SQL functions',
      'create or replace function f() returns int begin atomic select case when true then 1 end; select 2; end; select 3',
      [
        'create or replace function f() returns int begin atomic select case when true then 1 end; select 2; end',
        'select 3',
      ],
    ],
    [
      'backslash commands',
      "\\restrict 3abc'x\n\\echo it's here; and there\nselect 1;\n\\timing on \\\\ select 2;",
      ['select 1', 'select 2'],
    ],
    [
      'data of COPY',
      "copy t (a) from stdin;\n1;'\n\\N\n\\.\nselect 1; copy t from '/x'; select 2",
      ['copy t (a) from stdin', 'select 1', "copy t from '/x'", 'select 2'],
    ],
    [
      'what sends a statement',
      'select 1 \\g\nselect 2 \\gset\nselect 3\\;select 4;',
      ['select 1', 'select 2', 'select 3', 'select 4'],
    ],
    [
      'variables',
      `\\set s 'my schema'\n\\set n 3\nselect :n, :'s', :"s", x::int, :unset, a[1:2] from t;`,
      [`select 3, 'my schema', "my schema", x::int, :unset, a[1:2] from t`],
    ],
    [
      'conditions',
      '\\if true\nselect 1;\n\\else\nselect 2;\n\\endif\n\\if false\nselect 3;\n\\elif on\nselect 4;\n\\endif\nselect 5;',
      ['select 1', 'select 4', 'select 5'],
    ],
    ['nothing', ' ;; -- only this\n; /* and this */', []],
  ])('%s', (_, sql, pieces) => expect(texts(sql)).toEqual(pieces));

  it('says what it cannot follow, and where', () => {
    expect(
      reasons(
        'select 1;\n\\i other.sql\n\\if :maybe\nselect 2;\n\\else\nselect 3;\n\\endif\nselect 4 \\gexec\ncopy t from stdin;\n1\n2',
      ),
    ).toEqual([
      '2: \\i: another file is read here: it is not known to this reading',
      '3: whether this holds is known only when the script runs: both ways are read',
      '8: \\gexec: what the query gives is run as statements: these are not known',
      '9: the data of COPY has no end (a line with \\. alone): everything behind it is taken as data',
    ]);
    expect(texts('\\if :maybe\nselect 2;\n\\else\nselect 3;\n\\endif')).toEqual(['select 2', 'select 3']);
  });

  it('loses no letter of a script without commands', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.constantFrom(
            "'a;b'",
            '"c"',
            '$$;$$',
            '/* ; */',
            '-- x\n',
            ';',
            ' ',
            '\n',
            'select',
            '1',
            '(',
            ')',
            ',',
            'E',
            '$1',
            '::',
          ),
        ),
        (parts) => {
          const sql = parts.join('');
          const kept = splitScript(sql)
            .pieces.map((piece) => piece.text)
            .join('\n');
          const bare = (text: string) => text.replace(/--[^\n]*|\/\*[\s\S]*?\*\/|[\s;]/g, '');
          expect(bare(kept)).toBe(bare(sql));
        },
      ),
      { numRuns: 500 },
    );
  });
});

describe('a script that is parsed', () => {
  it('keeps lines, and says of what is lost which lines these are', () => {
    const { statements, rejected } = parseScript(
      'select 1;\n\nselect\n  2;\nselekt 3\n  from x;\nselect :x;\nselect 5;',
    );
    expect(statements.map((statement) => [statement.line, statement.text])).toEqual([
      [1, 'select 1'],
      [3, 'select\n  2'],
      [8, 'select 5'],
    ]);
    expect(rejected.map((piece) => piece.line)).toEqual([5, 7]);
    expect(rejected[0]?.reason).toContain('lines 5 to 6 are lost');
    expect(rejected[1]?.reason).toContain('the variable :x is not set');
  });

  it('is read to its end, however many statements it has', () => {
    const sql = Array.from({ length: 3000 }, (_, index) => `insert into t values (${index}, 'x;y');`).join('\n');
    const { statements, rejected } = parseScript(sql);
    expect([statements.length, rejected.length, statements.at(-1)?.line]).toEqual([3000, 0, 3000]);
  });

  it('of a current dump is read whole, whatever its key begins with', () => {
    const { statements, rejected } = parseScript(
      '\\restrict 9abc\n\nSET x = 1;\nCREATE TABLE t (a int);\nCOPY public.t (a) FROM stdin;\n1\n\\.\nCREATE VIEW v AS SELECT a FROM t;\n\\unrestrict 9abc\n',
    );
    expect(rejected).toEqual([]);
    expect(statements.map((statement) => Object.keys(statement.node)[0])).toEqual([
      'VariableSetStmt',
      'CreateStmt',
      'CopyStmt',
      'ViewStmt',
    ]);
  });
});
