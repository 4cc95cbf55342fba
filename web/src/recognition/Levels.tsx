import { Box, Button, Group, Stack } from '@mantine/core';
import { Link } from 'react-router';
import { useMayAnywhere } from '../forms/Frame.tsx';
import { Level, plural } from '../marks/index.tsx';
import { Beside, Choice, Note } from '../marks/layout.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useClassLabel } from './classLabels.ts';
import { LevelForm } from './LevelForm.tsx';
import { KindsForm } from './LevelKindsForm.tsx';
import { type Choosing, RuleForm } from './LevelRuleForm.tsx';
import { useLevelKindsQuery, useLevelRulesQuery, useLevelsQuery } from './levelsApi.ts';

/** The levels and what they mean, the kinds they rise to, and the rules by which combinations of classes raise what holds them. */
export function Levels({ chosen, choose }: { chosen: string | null; choose: Choosing }) {
  const rules = useLevelRulesQuery();
  const levels = useLevelsQuery();
  const kinds = useLevelKindsQuery();
  const labelOf = useClassLabel();
  const may = useMayAnywhere('steward');
  const mayName = useMayAnywhere();
  const error = rules.error ?? levels.error ?? kinds.error;
  if (error && !(rules.data && levels.data && kinds.data))
    return <Trouble error={error} what="The levels cannot be shown" />;
  if (!rules.data || !levels.data || !kinds.data) return <Coming />;
  const rule = rules.data.find((entry) => entry.id === chosen);
  const level = levels.data.find((entry) => `level:${entry.level}` === chosen);
  return (
    <Beside first="380px">
      <Stack gap={18}>
        <section aria-label="Levels">
          <h2>Levels</h2>
          <ul className="tree flat">
            {levels.data.map((entry) => (
              <Choice key={entry.level} chosen={entry === level} choose={() => choose(`level:${entry.level}`)}>
                <span className="grow">
                  <Level level={entry.level} />
                  <Note>{entry.meaning}</Note>
                </span>
              </Choice>
            ))}
            <Choice chosen={chosen === 'kinds'} choose={() => choose('kinds')}>
              <span className="grow">
                Kinds that have a level
                <Note>columns, {kinds.data.kinds.join(', ')}</Note>
              </span>
            </Choice>
          </ul>
          <Box component="p" className="small quiet" mt={8}>
            A column has the highest level of its <Link to="/recognition?show=classes">classes</Link>, in a report that
            of the values it shows; what holds it the highest of what it holds. Rules raise what holds several classes
            together. <Link to="/coverage?show=levels">Levels by domain, source and kind</Link>
          </Box>
        </section>
        <section aria-label="Rules">
          <Group>
            <h2 className="grow">{plural(rules.data.length, 'rule')}</h2>
            {may ? <Button onClick={() => choose('new')}>New rule</Button> : null}
          </Group>
          <ul className="tree flat">
            {rules.data.map((entry) => (
              <Choice key={entry.id} chosen={entry.id === chosen} choose={() => choose(entry.id)}>
                <span className="grow">
                  {entry.name}
                  <Note>{entry.classKeys.map(labelOf).join(' + ')}</Note>
                </span>
                <Level level={entry.level} />
              </Choice>
            ))}
          </ul>
        </section>
      </Stack>
      {chosen === 'new' || rule ? (
        <RuleForm key={rule?.id ?? 'new'} rule={rule} may={may} choose={choose} />
      ) : level ? (
        <LevelForm key={level.level} level={level} may={mayName} />
      ) : chosen === 'kinds' ? (
        <KindsForm now={kinds.data} may={may} />
      ) : (
        <Empty title="What is harmless alone">
          <p>
            A name, a date of birth and an address are each guarded; together they are a person. A rule raises every
            table that holds them all. What it would change is shown before it is saved.
          </p>
        </Empty>
      )}
    </Beside>
  );
}
