import { Button, Group, Stack } from '@mantine/core';
import dayjs from 'dayjs';
import { Link } from 'react-router';
import { problemOf } from '../app/api.ts';
import { sayDone, sayProblem } from '../app/say.ts';
import { count, KindMark, Name, plural } from '../marks/index.tsx';
import { heard, Listing } from '../marks/Listing.tsx';
import { Coming, ProblemNotice } from '../marks/states.tsx';
import { useAnswerRoutineMutation, useRoutineQuestionsQuery } from './api.ts';

type Answer = 'keep' | 'go on';

/** What a run of a routine asks a person of what they answer for: kept as it is, or gone on with, one by one or all. */
export function Questions({ runId, name }: { runId: string; name: string }) {
  const { data, error } = useRoutineQuestionsQuery(runId);
  const [answer, answering] = useAnswerRoutineMutation();
  if (error) return <ProblemNotice problem={problemOf(error)} />;
  if (!data) return <Coming />;
  const { text, until, assets, total } = data;
  const say = (assetIds: string[], what: Answer) =>
    void answer({ id: runId, assetIds, answer: what })
      .unwrap()
      .then(
        ({ answered }) =>
          sayDone(
            what === 'keep'
              ? `${plural(answered, 'asset')} ${answered === 1 ? 'stays as it is' : 'stay as they are'}: it asks no more for a year.`
              : `It goes on with ${plural(answered, 'asset')}.`,
          ),
        (problem: unknown) => sayProblem(problem, 'Your answer was not taken'),
      );
  const all = assets.map(({ id }) => id);
  return (
    <Stack gap={16}>
      <h2>{name}</h2>
      {total === 0 ? (
        <p className="quiet">It does not ask you any more.</p>
      ) : (
        <>
          <blockquote className="remark">{text}</blockquote>
          <p className="quiet">
            {plural(total, 'asset')} that you answer for
            {until ? `; it waits for you until ${dayjs(until).format('D MMMM')}` : ''}.
          </p>
          <Group>
            <Button loading={answering.isLoading} onClick={() => say(all, 'keep')}>
              Keep {assets.length === 1 ? 'it' : `all ${count(assets.length)}`}
            </Button>
            <Button variant="default" loading={answering.isLoading} onClick={() => say(all, 'go on')}>
              Go on with {assets.length === 1 ? 'it' : `all ${count(assets.length)}`}
            </Button>
          </Group>
          <Listing heads={['Kind', 'Asset', heard('Your answer')]} widths={[44]}>
            {assets.map(({ id, kind, path, source }) => (
              <tr key={id}>
                <td>
                  <KindMark kind={kind} />
                </td>
                <td className="anywhere">
                  <Link to={`/assets/${id}`}>
                    <Name text={path} />
                  </Link>{' '}
                  <span className="quiet small">{source}</span>
                </td>
                <td className="small">
                  <Group gap={10} wrap="nowrap">
                    <button
                      type="button"
                      className="linkish"
                      aria-label={`Keep ${path}`}
                      onClick={() => say([id], 'keep')}
                    >
                      Keep
                    </button>
                    <button
                      type="button"
                      className="linkish"
                      aria-label={`Go on with ${path}`}
                      onClick={() => say([id], 'go on')}
                    >
                      Go on
                    </button>
                  </Group>
                </td>
              </tr>
            ))}
          </Listing>
          {total > assets.length ? (
            <p className="quiet small">The first {count(assets.length)}; the others follow.</p>
          ) : null}
        </>
      )}
    </Stack>
  );
}
