/**
 * What people decided by hand, as the journal has it: a routine never undoes it. What routines did themselves, and what Idrel did by itself, is no decision of
 * a person; taking back what a routine did is one.
 */
const lastWord = (field: string, more: string, who = ''): string => `
  (
    select
      case
        when j.run_id is null and j.person_id is not null${who} then json_build_object('by', p.name, 'at', j.at)
      end
    from journal j
    left join person p on p.id = j.person_id
    where j.subject_id = a.id::text and (j.before ? ${field} or j.after ? ${field})${more}
    order by j.id desc
    limit 1
  )`;

/** Who last set a field of `asset a` that holds one thing, where it was by hand. @param field SQL of its name in the journal */
export const byHand = (field: string): string => lastWord(field, '');

/** What the journal calls what came in by lines of a program or a file. */
export const BY_LINES = 'edited by lines';

/** The same for who compares with lines: what a program set by somebody's key, or what lines said before, was not decided by hand. */
export const byHandNotLines = (field: string): string =>
  lastWord(field, '', ` and j.by_key is null and j.action <> '${BY_LINES}'`);

/**
 * Who last gave `asset a` one of a list, or took it away, where it was by hand.
 * @param field SQL of its name in the journal
 * @param names SQL of what it was ever called: the journal has words
 * @param called SQL of what an entry `e` of the list names
 */
export function byHandOf(field: string, names: string, called: string): string {
  const held = (side: string) => `
    (
      select string_agg(e, ', ' order by e)
      from jsonb_array_elements_text(
        case jsonb_typeof(j.${side} -> ${field}) when 'array' then j.${side} -> ${field} else '[]' end
      ) e
      where ${called} = any(${names})
    )`;
  return lastWord(field, ` and ${held('before')} is distinct from ${held('after')}`);
}

/** SQL of every name that something had, by the journal. @param id SQL of its id */
export const namesEver = (table: string, id: string): string => `
  array(
    select n.name
    from ${table} n
    where n.id = ${id}
    union
    select j.before ->> 'name'
    from journal j
    where j.subject_id = (${id})::text and j.before ? 'name'
  )`;
