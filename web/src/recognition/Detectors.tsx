import type { DetectorAnswer } from '@idrel/contract/recognition';
import { Button, Group, Stack, Switch, TextInput } from '@mantine/core';
import { Fragment, useState } from 'react';
import { Link } from 'react-router';
import { sayDone, sayProblem } from '../app/say.ts';
import { useMayAnywhere } from '../forms/Frame.tsx';
import { count, plural } from '../marks/index.tsx';
import { Listing, num } from '../marks/Listing.tsx';
import { useLevelWord } from '../marks/levelNames.ts';
import { Coming, Trouble } from '../marks/states.tsx';
import { useDetectorsQuery } from './api.ts';
import { byTheme } from './byTheme.ts';
import { useSwitchDetectorsMutation } from './detectorsApi.ts';
import { precisionOf } from './precision.ts';
import { SwitchOff } from './SwitchOff.tsx';
import { Transfer } from './Transfer.tsx';

/** All detectors by theme: what they found, how people judged it, and whether they look at all. */
export function Detectors() {
  const { data, error } = useDetectorsQuery();
  const levelWord = useLevelWord();
  const [words, setWords] = useState('');
  const [open, setOpen] = useState('');
  const [turn] = useSwitchDetectorsMutation();
  const [asking, setAsking] = useState<readonly string[]>([]);
  const may = useMayAnywhere('steward');
  if (error) return <Trouble error={error} what="The detectors cannot be shown" />;
  if (!data) return <Coming />;
  const asked = words.toLowerCase().split(/\s+/).filter(Boolean);
  const shown = data.filter((detector) =>
    asked.every((word) =>
      `${detector.label} ${detector.id} ${detector.theme} ${detector.country ?? ''} ${detector.own ? 'own' : ''}`
        .toLowerCase()
        .includes(word),
    ),
  );
  const put = (ids: readonly string[], off: boolean) =>
    turn({ ids, off })
      .unwrap()
      .then(
        () =>
          sayDone(
            `${plural(ids.length, 'detector')} switched ${off ? 'off' : 'on'} for the organisation, from the next scans on.`,
            () => turn({ ids, off: !off }),
          ),
        (failed: unknown) => sayProblem(failed, 'Nothing was switched'),
      );
  // What carries a class by them is shown before they are switched off.
  const ask = (ids: readonly string[], off: boolean) =>
    off && data.some((detector) => ids.includes(detector.id) && detector.found > 0)
      ? setAsking(ids)
      : void put(ids, off);
  return (
    <>
      <Group wrap="wrap" mb={10}>
        <TextInput
          aria-label="Find detectors"
          placeholder="Find: card, NO, health …"
          w={260}
          value={words}
          onChange={(event) => setWords(event.currentTarget.value)}
        />
        <span className="quiet grow">
          {plural(shown.length, 'detector')}, {count(data.filter((detector) => detector.off).length)} switched off
        </span>
        <Transfer may={may} />
        {may ? (
          <Button component={Link} to="/recognition?show=bench">
            New detector
          </Button>
        ) : null}
      </Group>
      {asking.length > 0 ? (
        <SwitchOff
          ids={asking}
          act={() => {
            void put(asking, true);
            setAsking([]);
          }}
          leave={() => setAsking([])}
        />
      ) : null}
      <Listing
        heads={[
          'Recognises',
          'Detector',
          'Country',
          'Level that follows',
          num('Proves alone'),
          num('Asks for'),
          num('Found'),
          num('Confirmed'),
          num('Dismissed'),
          num('Right'),
          'Looks',
        ]}
        grouped
      >
        {byTheme(shown).map(([theme, list]) => {
          const ids = list.map((detector) => detector.id);
          const on = list.filter((detector) => !detector.off).length;
          return (
            <tbody key={theme}>
              <tr>
                <th colSpan={10} scope="rowgroup" className="group">
                  {theme}
                </th>
                <td>
                  <Switch
                    size="xs"
                    aria-label={`${theme}: all look`}
                    disabled={!may}
                    checked={on > 0}
                    onChange={(event) => ask(ids, !event.currentTarget.checked)}
                  />
                </td>
              </tr>
              {list.map((detector) => (
                <Fragment key={detector.id}>
                  <tr
                    className={[open === detector.id ? 'open' : '', detector.off ? 'quiet' : '']
                      .filter(Boolean)
                      .join(' ')}
                  >
                    <td>
                      <button
                        type="button"
                        className="linkish"
                        aria-expanded={open === detector.id}
                        onClick={() => setOpen(open === detector.id ? '' : detector.id)}
                      >
                        {detector.label}
                      </button>
                    </td>
                    <td className="mono quiet">
                      {detector.id} {detector.version}
                    </td>
                    <td>{detector.country}</td>
                    <td>{levelWord(detector.level)}</td>
                    <td className="num">{Math.round(detector.strength * 100)} %</td>
                    <td className="num">{Math.round(detector.minShare * 100)} %</td>
                    <td className="num">{count(detector.found)}</td>
                    <td className="num">{count(detector.confirmed)}</td>
                    <td className="num">{count(detector.dismissed)}</td>
                    <td className="num">
                      {precisionOf(detector) === null ? '–' : `${Math.round((precisionOf(detector) ?? 0) * 100)} %`}
                    </td>
                    <td>
                      <Switch
                        size="xs"
                        aria-label={`${detector.id} looks`}
                        disabled={!may}
                        checked={!detector.off}
                        onChange={(event) => ask([detector.id], !event.currentTarget.checked)}
                      />
                    </td>
                  </tr>
                  {open === detector.id ? (
                    <tr>
                      <td colSpan={11}>
                        <About detector={detector} />
                      </td>
                    </tr>
                  ) : null}
                </Fragment>
              ))}
            </tbody>
          );
        })}
      </Listing>
    </>
  );
}

const About = ({ detector }: { detector: DetectorAnswer }) => (
  <Stack py={6}>
    <div>
      <span className="quiet">Takes: </span>
      <span className="mono">{detector.accepts.join('   ')}</span>
    </div>
    <div>
      <span className="quiet">Does not take: </span>
      <span className="mono">{detector.rejects.join('   ')}</span>
    </div>
    {detector.namesFor.length > 0 ? (
      <div>
        <span className="quiet">Names that speak for it: </span>
        {detector.namesFor.join(', ')}
      </div>
    ) : null}
    <Group>
      {detector.own ? <Link to={`/recognition?show=bench&detector=${detector.id}`}>Open on the bench</Link> : null}
      <Link to={`/recognition?show=classes&class=${detector.classKey}`}>The class, and what carries it</Link>
    </Group>
  </Stack>
);
