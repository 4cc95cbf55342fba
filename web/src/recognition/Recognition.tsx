import { SegmentedControl } from '@mantine/core';
import { useSearchParams } from 'react-router';
import { useCrumbs } from '../shell/crumbs.tsx';
import { Bench } from './Bench.tsx';
import { Certainty } from './Certainty.tsx';
import { Classes } from './Classes.tsx';
import { DetectorSets } from './DetectorSets.tsx';
import { Detectors } from './Detectors.tsx';
import { FindingList } from './FindingList.tsx';
import { Levels } from './Levels.tsx';

const SHOWN = [
  { value: 'open', label: 'To settle' },
  { value: 'certain', label: 'Certain' },
  { value: 'confirmed', label: 'Confirmed' },
  { value: 'dismissed', label: 'Dismissed' },
  { value: 'detectors', label: 'Detectors' },
  { value: 'bench', label: 'Bench' },
  { value: 'sets', label: 'Detector sets' },
  { value: 'classes', label: 'Classes' },
  { value: 'levels', label: 'Levels' },
  { value: 'certainty', label: 'Certainty' },
];

/** Those that are states of findings. */
const STATES = ['open', 'certain', 'confirmed', 'dismissed'] as const;

/** Findings by state, and the detectors behind them. */
export function Component() {
  useCrumbs({ text: 'Recognition' });
  const [params, setParams] = useSearchParams();
  const show = params.get('show') ?? 'open';
  return (
    <div className="page">
      <div className="head">
        <div>
          <h1>Recognition</h1>
          <p className="quiet">
            What detectors claim of columns, with their evidence. What you confirm or dismiss outlives every scan.
          </p>
        </div>
      </div>
      <SegmentedControl
        aria-label="What is shown"
        mb={14}
        value={show}
        onChange={(value) => setParams({ show: value }, { replace: true })}
        data={SHOWN}
      />
      {show === 'detectors' ? (
        <Detectors />
      ) : show === 'bench' ? (
        <Bench
          id={params.get('detector')}
          choose={(detector) => setParams(detector ? { show, detector } : { show }, { replace: true })}
        />
      ) : show === 'classes' ? (
        <Classes
          chosen={params.get('class')}
          choose={(key) => setParams(key ? { show, class: key } : { show }, { replace: true })}
        />
      ) : show === 'levels' ? (
        <Levels
          chosen={params.get('rule')}
          choose={(rule) => setParams(rule ? { show, rule } : { show }, { replace: true })}
        />
      ) : show === 'certainty' ? (
        <Certainty
          chosen={params.get('rule')}
          choose={(rule) => setParams(rule ? { show, rule } : { show }, { replace: true })}
        />
      ) : show === 'sets' ? (
        <DetectorSets
          chosen={params.get('set')}
          choose={(set) => setParams(set ? { show, set } : { show }, { replace: true })}
        />
      ) : (
        <FindingList state={STATES.find((state) => state === show) ?? 'open'} />
      )}
    </div>
  );
}
