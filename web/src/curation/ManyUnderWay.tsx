import type { BulkEditBrief } from '@idrel/contract/curation';
import { useEffect, useRef } from 'react';
import { useDispatch } from 'react-redux';
import { Link } from 'react-router';
import { api } from '../app/api.ts';
import { sayDone, sayProblem } from '../app/say.ts';
import { count, plural } from '../marks/index.tsx';
import { isUnderWay, useBulkEditsQuery, useUndoBulkEditMutation } from './manyApi.ts';

/** So often is asked how far it is. */
const EVERY = 700;

/** What came of a change of many, in words. */
export const outcome = ({ state, done, passedOver, restored, changes, problem }: BulkEditBrief): string => {
  const changed = done - passedOver;
  const passed = passedOver > 0 ? `; left as they are, since somebody changed them: ${count(passedOver)}` : '';
  if (state === 'undone') {
    const left = changed - (restored ?? 0);
    return `${plural(restored ?? 0, 'asset')} put back${left > 0 ? `; left as they are, since changed again: ${count(left)}` : ''}`;
  }
  if (state === 'failed')
    return `ended on the way, ${plural(changed, 'asset')} of ${count(changes)} changed: ${problem ?? ''}`;
  if (state === 'cancelled') return `stopped: ${plural(changed, 'asset')} of ${count(changes)} changed${passed}`;
  return `${plural(changed, 'asset')} changed${passed}`;
};

/** How far one is that is under way, in words. */
export const progress = ({ state, done, passedOver, restored, changes }: BulkEditBrief): string =>
  state === 'undoing'
    ? `${count(restored ?? 0)} of ${count(done - passedOver)}`
    : `${count(done)} of ${count(changes)}`;

/** In the top line: how far one's changes of many are, wherever one has gone meanwhile; when one has ended, it is said, with the way back. */
export function ManyUnderWay() {
  const known = useBulkEditsQuery();
  const going = (known.data ?? []).filter(isUnderWay);
  useBulkEditsQuery(undefined, { pollingInterval: going.length > 0 ? EVERY : 0, skipPollingIfUnfocused: false });
  const dispatch = useDispatch();
  const [undo] = useUndoBulkEditMutation();
  // How each stood when it was asked for last: one that began and ended in between is said, too; what had ended before one came is not.
  const before = useRef<ReadonlyMap<string, string>>(undefined);
  useEffect(() => {
    if (!known.data) return;
    const last = before.current;
    before.current = new Map(known.data.map(({ id, state }) => [id, state]));
    for (const edit of last ? known.data : []) {
      if (isUnderWay(edit) || last?.get(edit.id) === edit.state) continue;
      dispatch(api.util.invalidateTags(['Asset', 'Term', 'Tag']));
      if (edit.state === 'failed')
        sayProblem({ data: { detail: edit.problem } }, `${edit.told}: ended after ${progress(edit)}`);
      else sayDone(`${edit.told}: ${outcome(edit)}.`, edit.undoable ? () => undo(edit.id) : undefined);
    }
  }, [known.data, dispatch, undo]);
  const [first] = going;
  if (!first) return null;
  const doing = first.state === 'undoing' ? 'Taking back' : 'Changing';
  return (
    <Link to="/catalog/many" className="small" role="status">
      {doing} {progress(first)}
    </Link>
  );
}
