import type { FindingAnswer } from '@idrel/contract/recognition';
import type { TextEvidence, TextKind } from '@idrel/core/recognition';
import { Box, Group, Stack } from '@mantine/core';
import { Link } from 'react-router';
import { count, Evidence, plural, When } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';

const KIND_WORDS: Readonly<Record<TextKind, string>> = {
  message: 'messages, with a greeting or a closing',
  log: 'lines of a log',
  record: 'records of names and values',
  markup: 'markup or code',
  note: 'short notes',
  prose: 'running prose',
};
const percent = (part: number) => `${(part * 100).toFixed(part < 0.1 ? 1 : 0)} %`;

/** How the texts are written, and where in some of them something stands: each a line as long as the text, without a word of it. */
function Texts({ texts }: { texts: TextEvidence }) {
  const longest = Math.max(...texts.examples.map((example) => example.length), 1);
  return (
    <div>
      <div className="quiet small">How the texts are written</div>
      <div>
        {KIND_WORDS[texts.kind]} ({percent(texts.share)})
      </div>
      {texts.examples.map((example) => (
        <Group
          key={`${example.length}:${example.places.map((place) => place.start).join()}`}
          className="small"
          gap={12}
        >
          <span aria-hidden="true" style={{ position: 'relative', display: 'inline-block', width: 240, height: 12 }}>
            <span
              style={{
                position: 'absolute',
                top: 5,
                left: 0,
                height: 2,
                width: (example.length / longest) * 240,
                background: 'var(--hairline)',
              }}
            />
            {example.places.map((place) => (
              <span
                key={place.start}
                style={{
                  position: 'absolute',
                  top: 2,
                  height: 8,
                  left: (place.start / longest) * 240,
                  width: Math.max(3, ((place.end - place.start) / longest) * 240),
                  background: 'var(--kelp)',
                }}
              />
            ))}
          </span>
          <span className="quiet">
            {example.places.map((place) => `${place.kind} at ${place.start} to ${place.end}`).join(', ')}
          </span>
        </Group>
      ))}
    </div>
  );
}

/** Why a detector claims what it claims: shares, values (masked), the name, and how the confidence is made up. */
export function FindingEvidence({ finding }: { finding: FindingAnswer }) {
  const most = Math.max(...finding.terms.map((term) => Math.abs(term.logOdds)), 1);
  return (
    <Stack>
      {finding.dismissedAt ? (
        <div className="notice calm" role="note">
          {finding.decidedBy} dismissed this <When at={finding.decidedAt} />, when{' '}
          {Math.round(finding.dismissedAt.share * 100)} % of the values matched and the confidence was{' '}
          {Math.round(finding.dismissedAt.confidence * 100)} %
          {finding.dismissedAt.detector === finding.detector && finding.dismissedAt.version === finding.version
            ? ''
            : `, by ${finding.dismissedAt.detector} version ${finding.dismissedAt.version}`}
          . It says much more now; until you decide, the dismissal holds.
        </div>
      ) : null}
      {finding.rule ? (
        <div className="notice calm" role="note">
          Confirmed by the rule “{finding.rule}”. <Link to="/recognition?show=certainty">Rules that confirm</Link>
        </div>
      ) : null}
      {finding.remembered ? (
        <div className="notice calm" role="note">
          {finding.remembered.by ?? 'Somebody who left'} dismissed this for every column of the name{' '}
          <When at={finding.remembered.at} />
          {finding.remembered.reason ? `: ${finding.remembered.reason}` : ''}.
          {finding.state === 'to-settle'
            ? ` Then ${Math.round(finding.remembered.share * 100)} % of the values matched and the confidence was ${Math.round(finding.remembered.confidence * 100)} %; it says much more here.`
            : ''}{' '}
          <Link to="/recognition?show=certainty">Remembered dismissals</Link>
        </div>
      ) : null}
      <Group wrap="wrap" gap={24}>
        <div>
          <div className="quiet small">Values that match</div>
          <Evidence share={finding.share} label={`(${count(finding.matched)} of ${count(finding.sampled)})`} />
        </div>
        <div>
          <div className="quiet small">Different values</div>
          <div>{count(finding.distinct)}</div>
        </div>
        <div>
          <div className="quiet small">Confidence</div>
          <div>{(finding.confidence * 100).toFixed(1)} %</div>
        </div>
        <div>
          <div className="quiet small">Detector</div>
          <div className="mono">
            {finding.detector} version {finding.version}
          </div>
        </div>
      </Group>
      {finding.texts ? null : (
        <div>
          <div className="quiet small">Examples, masked</div>
          <div className="chips mono wrap">
            {finding.examples.map((example) => (
              <span key={example} className="chip">
                {example}
              </span>
            ))}
          </div>
        </div>
      )}
      {finding.texts ? <Texts texts={finding.texts} /> : null}
      {finding.inside ? (
        <div>
          <div className="quiet small">
            {Object.keys(finding.inside).every((kind) => kind.startsWith('$'))
              ? 'Where in the JSON'
              : 'Inside the texts'}
          </div>
          {Object.entries(finding.inside).map(([kind, rows]) => (
            <div key={kind}>
              {kind}: {plural(rows, 'row')}, {percent(rows / Math.max(1, finding.sampled))}
            </div>
          ))}
        </div>
      ) : null}
      <div>
        <div className="quiet small">How the confidence is made up (log-odds, added)</div>
        <Listing widths={[null, 120, 60]} maw={560}>
          {finding.terms.map((term) => (
            <tr key={term.reason}>
              <td>{term.reason}</td>
              <td>
                <span
                  style={{
                    display: 'inline-block',
                    height: 6,
                    width: `${(Math.abs(term.logOdds) / most) * 100}px`,
                    background: term.logOdds < 0 ? 'var(--buoy)' : 'var(--kelp)',
                  }}
                  aria-hidden="true"
                />
              </td>
              <td className="num">
                {term.logOdds > 0 ? '+' : ''}
                {term.logOdds.toFixed(2)}
              </td>
            </tr>
          ))}
        </Listing>
        <Box component="p" className="small quiet" mt={4}>
          The name of the column {finding.name.verdict === 'neutral' ? 'says nothing' : finding.name.verdict}
          {finding.name.words.length > 0 ? `: ${finding.name.words.join(', ')}` : ''}.
        </Box>
      </div>
    </Stack>
  );
}
