import type { LineageAnswer } from '@idrel/contract/lineage';
import { Button, Group, Popover, TextInput } from '@mantine/core';
import dayjs from 'dayjs';
import { useState } from 'react';
import { Link } from 'react-router';
import { When } from '../marks/index.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { useMomentsQuery } from './api.ts';

/** Which earlier day or moment a picture shows, and which it is compared with, as the address holds them: a day, or a moment. */
export interface Past {
  readonly day: string | null;
  readonly than: string | null;
  /** Whether it is another picture than that of now. */
  readonly shown: boolean;
  /** What the server is asked: moments. A day is meant as it ended. */
  readonly asked: { readonly at?: string; readonly before?: string };
}

const momentOf = (text: string | null): string | undefined => {
  const at = dayjs(text);
  if (text === null || !at.isValid()) return undefined;
  return (/^\d{4}-\d{2}-\d{2}$/.test(text) ? at.endOf('day') : at).toISOString();
};

/** What the address asks of the past. */
export function pastOf(params: URLSearchParams): Past {
  const [day, than] = [params.get('day'), params.get('than')];
  const [at, before] = [momentOf(day), momentOf(than)];
  return {
    day,
    than,
    shown: at !== undefined || before !== undefined,
    asked: { ...(at === undefined ? {} : { at }), ...(before === undefined ? {} : { before }) },
  };
}

const named = (text: string | null): string => {
  const at = dayjs(text);
  return text === null ? 'now' : at.format(text.length === 10 ? 'D MMM YYYY' : 'D MMM YYYY, HH:mm:ss');
};
/** Whether what is compared is one moment, before it and after it. */
const isOneMoment = ({ asked: { at, before } }: Past): boolean =>
  at !== undefined && before !== undefined && dayjs(at).diff(before) === 1;
const thatDay = (text: string | null): string => (text === null ? '' : dayjs(text).format('YYYY-MM-DD'));

/** Which moment is shown, and what came and went since the one that it is compared with. */
export function Then({ past, answer }: { past: Past; answer: LineageAnswer }) {
  const changed = (what: 'came' | 'went') =>
    [...answer.links, ...answer.influences].filter(({ change }) => change === what).length;
  return (
    <strong>
      {past.day === null ? 'Now' : `As of ${named(past.day)}`}
      {past.than === null || isOneMoment(past) ? '' : `, compared with ${named(past.than)}`}:{' '}
      {past.than === null ? '' : `${changed('came')} came, ${changed('went')} went. `}
    </strong>
  );
}

/** Chooses an earlier day, one to compare with, or a moment at which edges here changed. */
export function AsOf({
  focus,
  past,
  go,
}: {
  focus: string;
  past: Past;
  go: (changes: Record<string, string | null>) => void;
}) {
  const [open, setOpen] = useState(false);
  const [wrong, setWrong] = useState<string | null>(null);
  const choose = (day: string | null, than: string | null): void => {
    if (than !== null && than > (day ?? dayjs().format('YYYY-MM-DD'))) {
      setWrong('Choose a day before the one that is shown.');
      return;
    }
    setWrong(null);
    go({ day, than });
  };
  return (
    <>
      {past.shown ? (
        <Button variant="default" size="compact-xs" onClick={() => go({ day: null, than: null })}>
          Back to now
        </Button>
      ) : null}
      <Popover opened={open} onChange={setOpen} position="bottom-end" width={360} withinPortal trapFocus>
        <Popover.Target>
          <Button variant="default" size="compact-xs" aria-expanded={open} onClick={() => setOpen(!open)}>
            As of …
          </Button>
        </Popover.Target>
        <Popover.Dropdown aria-label="Lineage as of a day" className="stack">
          <Group grow align="flex-start">
            <TextInput
              label="As of"
              type="date"
              max={dayjs().format('YYYY-MM-DD')}
              value={thatDay(past.day)}
              onChange={(event) => {
                const day = event.currentTarget.value || null;
                // A day before the one that is compared with leaves nothing to compare.
                choose(day, day !== null && past.than !== null && past.than > day ? null : past.than);
              }}
            />
            <TextInput
              label="Compared with"
              type="date"
              max={dayjs().format('YYYY-MM-DD')}
              value={thatDay(past.than)}
              error={wrong}
              onChange={(event) => choose(past.day, event.currentTarget.value || null)}
            />
          </Group>
          <p className="quiet small">
            Edges are shown as they stood when the day ended; names, levels and classes are those of today.
          </p>
          {open ? (
            <WhenItChanged
              focus={focus}
              go={(changes) => {
                setOpen(false);
                go(changes);
              }}
            />
          ) : null}
        </Popover.Dropdown>
      </Popover>
    </>
  );
}

/** The moments at which edges into an asset or out of it came or went; each can be looked at. */
function WhenItChanged({ focus, go }: { focus: string; go: (changes: Record<string, string | null>) => void }) {
  const { data, error, refetch } = useMomentsQuery(focus);
  if (error)
    return <Trouble error={error} what="When its edges changed cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming lines={3} />;
  return (
    <section aria-label="When its edges changed">
      <h3>When its edges changed</h3>
      {data.length === 0 ? <p className="quiet">No edge leads here or away.</p> : null}
      <ul className="bare moments">
        {data.map(({ at, came, went, run }) => (
          <li key={at}>
            <button
              type="button"
              className="linkish"
              onClick={() => go({ day: dayjs(at).toISOString(), than: dayjs(at).subtract(1, 'ms').toISOString() })}
            >
              <When at={at} />: {came > 0 ? `${came} came` : ''}
              {came > 0 && went > 0 ? ', ' : ''}
              {went > 0 ? `${went} went` : ''}
            </button>
            {run ? (
              <span className="quiet small">
                {' '}
                by a <Link to={`/runs/${run.id}`}>scan of {run.source}</Link>
              </span>
            ) : null}
          </li>
        ))}
      </ul>
    </section>
  );
}
