import { SegmentedControl } from '@mantine/core';
import { Fragment, useState } from 'react';
import { useSearchParams } from 'react-router';
import { count } from '../marks/index.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import { useDetectorsQuery } from './api.ts';
import { DetectorSets } from './DetectorSets.tsx';
import { FindingList } from './FindingList.tsx';

const SHOWN = [
  { value: 'open', label: 'To settle' },
  { value: 'certain', label: 'Certain' },
  { value: 'confirmed', label: 'Confirmed' },
  { value: 'dismissed', label: 'Dismissed' },
  { value: 'detectors', label: 'Detectors' },
  { value: 'sets', label: 'Detector sets' },
];

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
          <p className="quiet">What detectors claim of columns, with their evidence. What you confirm or dismiss outlives every scan.</p>
        </div>
      </div>
      <SegmentedControl aria-label="What is shown" mb={14} value={show} onChange={(value) => setParams({ show: value }, { replace: true })} data={SHOWN} />
      {show === 'detectors' ? (
        <Detectors />
      ) : show === 'sets' ? (
        <DetectorSets chosen={params.get('set')} choose={(set) => setParams(set ? { show, set } : { show }, { replace: true })} />
      ) : (
        <FindingList state={show} />
      )}
    </div>
  );
}

function Detectors() {
  const { data, error } = useDetectorsQuery();
  const [open, setOpen] = useState('');
  if (error) return <Trouble error={error} what="The detectors cannot be shown" />;
  if (!data) return <Coming />;
  return (
    <table className="plain">
      <thead>
        <tr>
          <th>Recognises</th>
          <th>Theme</th>
          <th>Detector</th>
          <th>Level that follows</th>
          <th className="num">Proves alone</th>
          <th className="num">Asks for</th>
          <th className="num">Found</th>
          <th className="num">Confirmed</th>
          <th className="num">Dismissed</th>
        </tr>
      </thead>
      <tbody>
        {data.map((detector) => (
          <Fragment key={detector.id}>
            <tr className={open === detector.id ? 'open' : ''}>
              <td>
                <button type="button" className="linkish" aria-expanded={open === detector.id} onClick={() => setOpen(open === detector.id ? '' : detector.id)}>
                  {detector.label}
                </button>
              </td>
              <td>{detector.theme}</td>
              <td className="mono quiet">
                {detector.id} {detector.version}
              </td>
              <td>{detector.level}</td>
              <td className="num">{Math.round(detector.strength * 100)} %</td>
              <td className="num">{Math.round(detector.minShare * 100)} %</td>
              <td className="num">{count(detector.found)}</td>
              <td className="num">{count(detector.confirmed)}</td>
              <td className="num">{count(detector.dismissed)}</td>
            </tr>
            {open === detector.id ? (
              <tr>
                <td colSpan={9}>
                  <div className="stack" style={{ padding: '6px 0' }}>
                    <div>
                      <span className="quiet">Takes: </span>
                      <span className="mono">{detector.accepts.join('   ')}</span>
                    </div>
                    <div>
                      <span className="quiet">Does not take: </span>
                      <span className="mono">{detector.rejects.join('   ')}</span>
                    </div>
                    <div>
                      <span className="quiet">Names that speak for it: </span>
                      {detector.namesFor.join(', ')}
                    </div>
                  </div>
                </td>
              </tr>
            ) : null}
          </Fragment>
        ))}
      </tbody>
    </table>
  );
}
