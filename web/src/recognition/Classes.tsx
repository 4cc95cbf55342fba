import type { ClassAnswer } from '@idrel/contract/recognition';
import { where } from '@idrel/core/catalog';
import { Box, Button, Group, Stack } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { problemOf } from '../app/api.ts';
import { sayDone, sayProblem } from '../app/say.ts';
import { opens } from '../catalog/index.ts';
import { useMayAnywhere } from '../forms/Frame.tsx';
import { TermsOf } from '../glossary/index.ts';
import { count, Level, Name, plural } from '../marks/index.tsx';
import { Beside, Choice } from '../marks/layout.tsx';
import { Coming, Empty, ProblemNotice, Trouble } from '../marks/states.tsx';
import { ClassForm } from './ClassForm.tsx';
import {
  useCarriersQuery,
  useCountedClassesQuery,
  useRemoveClassMutation,
  useRestoreClassMutation,
} from './classesApi.ts';

/** Classes as a tree: each below the one it belongs to, the topmost below their themes. */
export function inTree(
  classes: readonly ClassAnswer[],
): { theme: string; nodes: { entry: ClassAnswer; depth: number }[] }[] {
  const keys = new Set(classes.map((entry) => entry.key));
  const below = (parent: string, depth: number): { entry: ClassAnswer; depth: number }[] =>
    classes
      .filter((entry) => entry.parentKey === parent)
      .flatMap((entry) => [{ entry, depth }, ...below(entry.key, depth + 1)]);
  const tops = classes.filter((entry) => entry.parentKey === null || !keys.has(entry.parentKey));
  const themes = [...new Set(tops.map((entry) => entry.theme))];
  return themes.map((theme) => ({
    theme,
    nodes: tops
      .filter((entry) => entry.theme === theme)
      .flatMap((entry) => [{ entry, depth: 0 }, ...below(entry.key, 1)]),
  }));
}

/** What the values of columns can be: the tree of classes at the left, one of them at the right. */
export function Classes({ chosen, choose }: { chosen: string | null; choose: (key: string | null) => void }) {
  const { data, error } = useCountedClassesQuery();
  const may = useMayAnywhere('steward');
  if (error && !data) return <Trouble error={error} what="The classes cannot be shown" />;
  if (!data) return <Coming />;
  const about = data.find((entry) => entry.key === chosen);
  return (
    <Beside first="340px">
      <div>
        <Group mb={6}>
          <h2 className="grow">{plural(data.filter((entry) => !entry.retired).length, 'class', 'classes')}</h2>
          {may ? <Button onClick={() => choose('new')}>New class</Button> : null}
        </Group>
        {inTree(data).map(({ theme, nodes }) => (
          <section key={theme} aria-label={theme}>
            <Box component="h3" className="quiet" pt={8} pb={2}>
              {theme}
            </Box>
            <ul className="tree flat">
              {nodes.map(({ entry, depth }) => (
                <Choice key={entry.key} chosen={entry.key === chosen} choose={() => choose(entry.key)} depth={depth}>
                  <span className={`grow cut${entry.retired ? ' standing retiring' : ''}`}>{entry.label}</span>
                  <span className="quiet small">
                    {entry.retired ? 'retired' : entry.columns ? plural(entry.columns, 'column') : ''}
                  </span>
                </Choice>
              ))}
            </ul>
          </section>
        ))}
      </div>
      {chosen === 'new' ? (
        <Stack maw={640}>
          <h2>New class</h2>
          <ClassForm done={(made) => choose(made?.key ?? null)} />
        </Stack>
      ) : about ? (
        <ClassPane
          key={`${about.key}:${about.version}:${about.retired}`}
          about={about}
          parent={data.find((entry) => entry.key === about.parentKey)}
          may={may}
          close={() => choose(null)}
        />
      ) : (
        <Empty title="What values can be">
          <p>
            A data class says what the values of a column are. Its level follows for every column that carries it.
            Choose one to see what carries it, or make one of your own.
          </p>
        </Empty>
      )}
    </Beside>
  );
}

/** What a rule that depends on a class is called, and where it is found. */
const RULE_WORDS = {
  levels: ['Rule of levels', '/recognition?show=levels&rule='],
  certainty: ['Rule that confirms', '/recognition?show=certainty&rule='],
  combination: ['Combination', '/recognition?show=bench&detector='],
} as const;

function ClassPane({
  about,
  parent,
  may,
  close,
}: {
  about: ClassAnswer;
  parent: ClassAnswer | undefined;
  may: boolean;
  close: () => void;
}) {
  const carriers = useCarriersQuery(about.key);
  const [editing, setEditing] = useState(false);
  const [asking, setAsking] = useState(false);
  const [problem, setProblem] = useState<ReturnType<typeof problemOf> | null>(null);
  const [remove, removing] = useRemoveClassMutation();
  const [restore] = useRestoreClassMutation();
  const {
    columns = 0,
    shown = [],
    detectors = [],
    policies = [],
    routines = [],
    rules = [],
    children = [],
  } = carriers.data ?? {};
  const destroy = async () => {
    try {
      await remove({ key: about.key, columns }).unwrap();
      sayDone(
        `“${about.label}” is ${about.own ? 'removed' : 'retired'}: nothing carries it any more.`,
        about.own ? undefined : () => restore(about.key),
      );
      if (about.own) close();
    } catch (error) {
      setProblem(problemOf(error));
    }
  };
  if (editing) return <ClassForm about={about} done={() => setEditing(false)} />;
  return (
    <Stack maw={720} gap={14}>
      <div>
        <h2>{about.label}</h2>
        <p className="quiet">
          <span className="mono">{about.key}</span> · {about.theme}
          {parent ? ` · below ${parent.label}` : ''} · {about.own ? 'your own' : 'ships with Idrel'}
          {about.synonyms.length > 0 ? ` · also called ${about.synonyms.join(', ')}` : ''}
        </p>
      </div>
      {about.retired ? (
        <div className="notice calm" role="note">
          Retired: nothing carries it, and its detectors look nowhere until somebody uses it again.
        </div>
      ) : null}
      <p>{about.meaning || <span className="quiet">No meaning is written yet.</span>}</p>
      <Group>
        <span className="quiet">Level that follows:</span> <Level level={about.level} />
      </Group>
      <p>
        <span className="quiet">Along lineage: </span>
        {about.travels.length === 0 ? (
          'it does not travel'
        ) : (
          <>
            it travels where the value is {about.travels.join(' or ')};{' '}
            <Link to={opens(where('kind', 'column'), where('class', about.key), where('via', 'lineage'))}>
              where it came so
            </Link>
          </>
        )}
      </p>
      {about.legalBasis ? (
        <p>
          <span className="quiet">Legal basis: </span>
          {about.legalBasis}
        </p>
      ) : null}
      <section aria-label="What carries it">
        <h3>
          {plural(columns, 'column')} {columns === 1 ? 'carries' : 'carry'} it by a finding or a decision
        </h3>
        {shown.slice(0, 12).map((column) => (
          <Group key={column.id}>
            <Link to={`/assets/${column.id}`}>
              <Name text={column.path} most={50} />
            </Link>
            <span className="quiet small">
              {column.source}, {column.state}
            </span>
          </Group>
        ))}
        {columns > 0 ? (
          <Link to={opens(where('kind', 'column'), where('class', about.key))}>All in the catalog</Link>
        ) : null}
      </section>
      <section aria-label="What depends on it">
        <h3>What depends on it</h3>
        <p>
          {plural(detectors.length, 'detector')}
          {detectors.length > 0 ? (
            <>
              : <span className="mono small">{detectors.join(', ')}</span>
            </>
          ) : null}
        </p>
        {policies.map((policy) => (
          <p key={policy.id}>
            Policy <Link to={`/access?edit=${policy.id}`}>{policy.name}</Link>
            {policy.alone ? ', by this class alone' : ''}
          </p>
        ))}
        {routines.map((routine) => (
          <p key={routine.id}>
            Routine <Link to={`/routines?routine=${routine.id}`}>{routine.name}</Link>
          </p>
        ))}
        {rules.map((rule) => (
          <p key={rule.id}>
            {RULE_WORDS[rule.of][0]} <Link to={`${RULE_WORDS[rule.of][1]}${rule.id}`}>{rule.name}</Link>
          </p>
        ))}
        {children.length > 0 ? <p>Classes below it: {children.join(', ')}</p> : null}
      </section>
      <section aria-label="Terms">
        <h3 className="under">What it means in the glossary</h3>
        <TermsOf of={{ class: about.key }} name={about.label} />
      </section>
      <ProblemNotice problem={problem} />
      {may && about.retired ? (
        <Group>
          <Button
            onClick={() =>
              restore(about.key)
                .unwrap()
                .then(
                  () => sayDone(`“${about.label}” is in use again. Its detectors look in the next scans.`),
                  (error: unknown) => sayProblem(error, 'It was not restored'),
                )
            }
          >
            Use it again
          </Button>
        </Group>
      ) : may ? (
        <Group>
          <Button variant="default" onClick={() => setEditing(true)}>
            Edit
          </Button>
          {asking ? (
            <Button
              color="buoy.7"
              loading={removing.isLoading}
              disabled={!carriers.data}
              onClick={() => void destroy()}
            >
              {about.own ? 'Remove' : 'Retire'} it, from {count(columns)} columns, with{' '}
              {plural(detectors.length, 'detector')}
            </Button>
          ) : (
            <Button variant="subtle" c="var(--buoy)" onClick={() => setAsking(true)}>
              {about.own ? 'Remove' : 'Retire'} …
            </Button>
          )}
        </Group>
      ) : null}
    </Stack>
  );
}
