import type { WorkItem } from '@idrel/contract/worklist';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { MINE_TO_ANSWER, OPEN_QUESTIONS } from './questions.ts';

type Waiting = Extract<WorkItem, { kind: 'routine' }>['routine'];

/**
 * Routines that wait for a person: those that they keep of which a run asks, whose last run failed, or that were given to them; and those that ask of what they
 * answer for.
 */
export const waitingRoutines = (db: Db, who: Who): Promise<Waiting[]> =>
  db.rows<Waiting>(
    `
      select
        r.id, r.name, w.why, w."runId", w.at, (w.guard ->> 'changes')::int as changes, (w.guard ->> 'most')::int as most,
        w.problem
      from routine r
      cross join lateral (
        select 'asks' as why, x.id as "runId", x.at, x.guard, null as problem
        from routine_run x
        where x.routine_id = r.id and x.state = 'asks'
        union all
        select 'failed', x.id, x.at, null, x.problem
        from (select * from routine_run l where l.routine_id = r.id order by l.at desc limit 1) x
        where x.state = 'failed' and r.starts is not null
        union all
        select 'take', null, null, null, null
        where r.starts is not null and r.agreed_at is null
      ) w
      where r.made_by = $1 and r.removed_at is null
      union all
      select r.id, r.name, 'question', x.id, x.due_at, count(*)::int, null, x.steps -> x.step ->> 'text'
      from ${OPEN_QUESTIONS}
      join routine r on r.id = x.routine_id
      where r.removed_at is null and ${MINE_TO_ANSWER('$1')} and ${isSeen('a', '$2')}
      group by r.id, x.id
      order by 5 desc nulls first, 2`,
    [who.id, who.domainsAs('reader')],
  );
