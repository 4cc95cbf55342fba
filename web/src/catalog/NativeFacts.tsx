import type { AssetAnswer } from '@idrel/contract/catalog';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { count, plural, When } from '../marks/index.tsx';

type Facts = Readonly<Record<string, unknown>>;
const text = (value: unknown): string | undefined => (typeof value === 'string' && value !== '' ? value : undefined);
const number = (value: unknown): number | undefined => (typeof value === 'number' ? value : undefined);
const list = (value: unknown): string[] => (Array.isArray(value) ? value.map(String) : []);

/** What the source itself says of an asset, fact by fact; what it does not say does not stand here. */
export function factsOf(
  native: Facts,
  ofType: AssetAnswer['ofType'] = null,
): (readonly [label: string, value: ReactNode])[] {
  const opened = number(native.opened);
  const runs = number(native.runs);
  const state = text(native.lastState);
  const facts: (readonly [string, ReactNode] | undefined)[] = [
    text(native.default) ? ['Default', <Mono key="default" text={text(native.default) ?? ''} />] : undefined,
    native.primaryKey ? ['Key', 'part of the primary key'] : undefined,
    list(native.references).length > 0
      ? ['Refers to', <Mono key="references" text={list(native.references).join(', ')} />]
      : undefined,
    ofType ? ['Its type', <OfType key="type" type={ofType} />] : undefined,
    native.identity
      ? ['Numbers itself', native.identity === 'always' ? 'always' : 'where no number is given']
      : undefined,
    text(native.form) && text(native.language) ? ['Form', text(native.form)] : undefined,
    text(native.base) ? ['Made of', <Mono key="base" text={text(native.base) ?? ''} />] : undefined,
    native.nullable === false && text(native.form) === 'domain' ? ['Missing values', 'not permitted'] : undefined,
    text(native.language) ? ['Language', text(native.language)] : undefined,
    text(native.volatility) ? ['Volatility', text(native.volatility)] : undefined,
    text(native.runsAs) ? ['Runs with the rights of', text(native.runsAs)] : undefined,
    text(native.start)
      ? [
          'Counts',
          `from ${native.start} by ${native.step}, ${native.least} to ${native.most}${native.cycles ? ', then again from the beginning' : ''}`,
        ]
      : undefined,
    text(native.ownedBy)
      ? ['Gives the values of', <Mono key="ownedBy" text={text(native.ownedBy) ?? ''} />]
      : undefined,
    list(native.permitted).length > 0 ? ['Permits', list(native.permitted).join(', ')] : undefined,
    text(native.codeLanguage) && text(native.codeLanguage) !== 'sql'
      ? ['Written in', text(native.codeLanguage)]
      : undefined,
    /^https?:\/\//.test(text(native.codeAt) ?? '')
      ? [
          'Its code',
          <a key="code" href={text(native.codeAt)} rel="noreferrer" className="anywhere">
            {text(native.codeAt)}
          </a>,
        ]
      : undefined,
    text(native.author) ? ['Made by', text(native.author)] : undefined,
    text(native.publisher) ? ['Published by', text(native.publisher)] : undefined,
    text(native.contact) ? ['To be asked', text(native.contact)] : undefined,
    text(native.license) ? ['Licence', text(native.license)] : undefined,
    text(native.accessRights) ? ['Access there', text(native.accessRights)] : undefined,
    list(native.themes).length > 0 ? ['Themes there', list(native.themes).join(', ')] : undefined,
    list(native.keywords).length > 0 ? ['Keywords there', list(native.keywords).join(', ')] : undefined,
    list(native.languages).length > 0 ? ['In the languages', list(native.languages).join(', ')] : undefined,
    text(native.issued) ? ['Published', text(native.issued)] : undefined,
    ...(
      [
        ['page', 'Its page there'],
        ['address', 'Its address'],
      ] as const
    ).map(([key, label]): readonly [string, ReactNode] | undefined =>
      /^https?:\/\//.test(text(native[key]) ?? '')
        ? [
            label,
            <a key={key} href={text(native[key])} rel="noreferrer" className="anywhere">
              {text(native[key])}
            </a>,
          ]
        : undefined,
    ),
    opened === undefined
      ? undefined
      : [
          'Opened',
          `${plural(opened, 'time')} by ${count(number(native.openedBy))} ${number(native.openedBy) === 1 ? 'person' : 'people'}`,
        ],
    text(native.lastOpened) ? ['Last opened', <When key="opened" at={text(native.lastOpened) ?? null} />] : undefined,
    runs === undefined ? undefined : ['Runs', `${count(runs)} known, ${count(number(native.failed))} failed`],
    state
      ? [
          'Last run',
          <span key="last" className={state === 'failed' ? 'attention' : ''}>
            {state} <When at={text(native.lastAt) ?? null} />
            {text(native.lastMessage) ? `: ${text(native.lastMessage)}` : ''}
          </span>,
        ]
      : undefined,
    ...(['reads', 'writes'] as const).map((way): readonly [string, ReactNode] | undefined =>
      list(native[way]).length > 0
        ? [way === 'reads' ? 'Reads' : 'Writes', <Datasets key={way} names={list(native[way])} />]
        : undefined,
    ),
    text(native.modified) ? ['Changed', <When key="changed" at={text(native.modified) ?? null} />] : undefined,
  ];
  return facts.filter((fact) => fact !== undefined);
}

const Mono = ({ text: shown }: { text: string }) => <span className="mono anywhere">{shown}</span>;

function OfType({ type }: { type: NonNullable<AssetAnswer['ofType']> }) {
  return (
    <>
      <Link to={`/assets/${type.id}`} className="mono">
        {type.name}
      </Link>
      {type.permits ? <span className="quiet"> permits {type.permits.join(', ')}</span> : null}
    </>
  );
}

function Datasets({ names }: { names: readonly string[] }) {
  return (
    <span className="mono anywhere">
      {names.map((name) => (
        <span className="block" key={name}>
          {name.replace(/^[a-z0-9]+:\/\/[^/]*\//, '')}
        </span>
      ))}
    </span>
  );
}

export function NativeFacts({ asset }: { asset: AssetAnswer }) {
  return factsOf(asset.native, asset.ofType).map(([label, value]) => (
    <div className="field" key={label}>
      <span className="label">{label}</span>
      <span>{value}</span>
    </div>
  ));
}
