import type { OwnDetectorAnswer } from '@idrel/contract/recognition';
import type { DetectorSpec } from '@idrel/core/recognition/spec';
import { Group } from '@mantine/core';
import { plural, When } from '../marks/index.tsx';

const FIELD_WORDS: Readonly<Record<keyof DetectorSpec, string>> = {
  value: 'rule',
  checksum: 'check digits',
  namePattern: 'name',
  nameNeeded: 'only under such a name',
  minShare: 'least share',
  minDistinct: 'least different values',
  accepts: 'values it takes',
  rejects: 'values it does not take',
};

/** What a version says of a field, in few words. */
function said(spec: DetectorSpec, field: keyof DetectorSpec): string {
  const value = spec[field];
  if (field === 'value') {
    const rule = spec.value;
    if (!rule) return 'the name alone';
    if (rule.kind === 'pattern') return `${rule.pattern}${rule.caseless ? ', any case' : ''}`;
    if (rule.kind === 'list') return `${plural(rule.values.length, 'entry', 'entries')}, ${rule.match}`;
    if (rule.kind === 'range') return `${rule.from || 'any'} to ${rule.to || 'any'}`;
    return `beside ${rule.least} of ${rule.classKeys.join(', ')}`;
  }
  if (field === 'minShare') return `${Math.round(spec.minShare * 100)} %`;
  return Array.isArray(value)
    ? value.join(', ') || 'none'
    : typeof value === 'boolean'
      ? value
        ? 'yes'
        : 'no'
      : String(value) || 'none';
}

/** A rule in few words, field by field. */
export const SpecWords = ({ spec }: { spec: DetectorSpec }) => (
  <>
    {(Object.keys(FIELD_WORDS) as (keyof DetectorSpec)[]).map((field) => (
      <div key={field} className="small">
        {FIELD_WORDS[field]}: <span className="mono">{said(spec, field).slice(0, 120)}</span>
      </div>
    ))}
  </>
);

export function Versions({
  own,
  take,
  now,
}: {
  own: OwnDetectorAnswer;
  take: (spec: DetectorSpec) => void;
  now: DetectorSpec;
}) {
  const differing = (spec: DetectorSpec) =>
    (Object.keys(FIELD_WORDS) as (keyof DetectorSpec)[]).filter(
      (field) => JSON.stringify(spec[field]) !== JSON.stringify(now[field]),
    );
  return (
    <section aria-label="Versions">
      <h3>{plural(own.versions.length, 'version')}</h3>
      <ul className="flat">
        {own.versions.map((version) => {
          const fields = differing(version.spec);
          return (
            <li className="item" key={version.version}>
              <Group>
                <span className="grow">
                  {version.version}: {version.note || 'no note'}
                </span>
                <span className="quiet small">
                  {version.by ?? 'somebody who left'}, <When at={version.at} />
                </span>
              </Group>
              <div className="small quiet">
                {fields.length === 0 ? (
                  'as it stands here'
                ) : (
                  <>
                    {fields.map((field) => (
                      <div key={field}>
                        {FIELD_WORDS[field]}: <span className="mono">{said(version.spec, field).slice(0, 120)}</span>{' '}
                        there, <span className="mono">{said(now, field).slice(0, 120)}</span> here
                      </div>
                    ))}
                    <button type="button" className="linkish" onClick={() => take(version.spec)}>
                      Take this one
                    </button>
                  </>
                )}
              </div>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
