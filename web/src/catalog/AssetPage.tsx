import type { AssetAnswer } from '@idrel/contract/catalog';
import { CopyButton, Select, Tooltip } from '@mantine/core';
import { useEffect, useState } from 'react';
import { Link, useParams } from 'react-router';
import { useExplainQuery } from '../access/api.ts';
import { useSessionQuery } from '../app/api.ts';
import { useKeys } from '../app/keys.tsx';
import { Description } from '../curation/Description.tsx';
import { Facts } from '../curation/Facts.tsx';
import { useImpactQuery } from '../lineage/api.ts';
import { bytes, ClassChips, count, KindMark, Level, Name, plural, StandingMark, When } from '../marks/index.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { usePeopleQuery } from '../people/api.ts';
import { FindingList } from '../recognition/FindingList.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import { useAssetQuery, useChildrenQuery, useJournalQuery } from './api.ts';
import { DESCRIBED_KINDS, Described } from './Described.tsx';
import { History } from './History.tsx';
import { NativeFacts } from './NativeFacts.tsx';
import { Profile } from './Profile.tsx';
import { SourceRights } from './SourceRights.tsx';

const SECTIONS = [
  ['meaning', 'Meaning'],
  ['columns', 'Contents'],
  ['profile', 'Profile'],
  ['findings', 'Findings'],
  ['lineage', 'Lineage'],
  ['access', 'Access'],
  ['history', 'History'],
] as const;

/** An asset's page: one page, read from top to bottom. */
export function Component() {
  const { id = '' } = useParams();
  const { data: asset, error, refetch } = useAssetQuery(id);
  useCrumbs(
    { text: 'Catalog', to: '/catalog' },
    ...(asset?.ancestors ?? []).map((entry) => ({ text: entry.name, to: `/assets/${entry.id}` })),
    { text: asset?.name ?? '…' },
  );
  if (error) return <Trouble error={error} what="This asset cannot be shown" again={() => void refetch()} />;
  if (!asset || asset.id !== id) return <Coming />;
  return <Page key={asset.id} asset={asset} />;
}

function Page({ asset }: { asset: AssetAnswer }) {
  const [editing, setEditing] = useState(false);
  const here = useReader();
  useKeys('Asset', [{ key: 'e', what: 'edit the description', act: () => setEditing(true) }]);
  const native = asset.native as {
    definition?: string;
    default?: string;
    nullable?: boolean;
    primaryKey?: boolean;
    references?: string[];
    bytes?: number;
    parts?: { name: string; bound: string }[];
    partitionedBy?: string;
    files?: number;
    lookedInto?: number;
    variants?: { part: string; parts: number; differences: string[] }[];
    format?: string;
    problem?: string;
  };
  return (
    <div className="asset">
      <nav className="contents" aria-label="On this page">
        {SECTIONS.filter(
          ([key]) => !DESCRIBED_KINDS.includes(asset.kind) || !['findings', 'profile'].includes(key),
        ).map(([key, label]) => (
          <a key={key} href={`#${key}`} className={here === key ? 'here' : ''}>
            {label}
          </a>
        ))}
      </nav>
      <article>
        <div className="row" style={{ marginBottom: 4 }}>
          <KindMark kind={asset.kind} />
          <h1>
            <Name text={asset.name} most={60} />
          </h1>
          <StandingMark standing={asset.standing} />
        </div>
        <div className="quiet" style={{ marginBottom: 18 }}>
          {asset.kind} in {asset.source}, {asset.domain}
          {asset.rows !== null ? ` · about ${plural(asset.rows, 'row')}` : ''}
          {native.bytes ? ` · ${bytes(native.bytes)}` : ''}
        </div>
        {asset.gone ? (
          <div className="notice" style={{ marginBottom: 14 }}>
            Gone from the source since <When at={asset.goneAt} />. Everything people wrote is kept, and comes back with
            it.
          </div>
        ) : null}
        <section id="meaning">
          <h2>Meaning</h2>
          <Description
            asset={asset}
            empty={asset.mayEdit ? 'Write what it means …' : 'Not described yet.'}
            open={editing}
            onOpen={setEditing}
          />
          {asset.comment ? (
            <p style={{ marginTop: 8 }}>
              <span className="quiet">The source says: </span>
              {asset.comment}
            </p>
          ) : null}
        </section>
        <section id="columns">
          <h2>Contents</h2>
          {DESCRIBED_KINDS.includes(asset.kind) ? null : <Contents asset={asset} />}
          <Described asset={asset} />
          {native.parts ? (
            <p className="quiet" style={{ marginTop: 10 }}>
              {native.partitionedBy ? `Partitioned by ${native.partitionedBy}` : 'Made of parts'}
              {native.files ? `, ${plural(native.files, 'file')}` : ''}:{' '}
              {native.parts.map((part) => part.name).join(', ')}
              {native.files && native.files > native.parts.length ? ' and earlier ones' : ''}
            </p>
          ) : null}
          {native.variants ? (
            <div className="notice" style={{ marginTop: 10 }}>
              Not all parts have the same columns. Of {native.lookedInto} that were looked into:
              {native.variants.map((variant) => (
                <div key={variant.part} className="mono small">
                  {variant.part}
                  {variant.parts > 1 ? ` and ${plural(variant.parts - 1, 'other')}` : ''}:{' '}
                  {variant.differences.join('; ')}
                </div>
              ))}
            </div>
          ) : null}
          {native.definition ? (
            <>
              <h3 style={{ margin: '14px 0 6px' }}>Definition</h3>
              <pre className="code">{native.definition.trim()}</pre>
            </>
          ) : null}
        </section>
        {asset.children > 0 || asset.kind === 'column' ? (
          <section id="profile">
            <h2>Profile</h2>
            <Profile asset={asset} />
          </section>
        ) : null}
        {DESCRIBED_KINDS.includes(asset.kind) ? null : (
          <section id="findings">
            <h2>Findings</h2>
            <FindingList asset={asset.id} />
          </section>
        )}
        <section id="lineage">
          <h2>Lineage</h2>
          <Neighbours id={asset.id} />
        </section>
        <section id="access">
          <h2>Access</h2>
          <WhoCanRead asset={asset} />
          <SourceRights asset={asset} />
        </section>
        <section id="history">
          <h2>History</h2>
          <Journal id={asset.id} />
        </section>
      </article>
      <aside className="margin" aria-label="Facts">
        <Facts asset={asset} />
        <NativeFacts asset={asset} />
        {asset.use ? (
          <div className="field">
            <span className="label">Asked for</span>
            <Tooltip
              label={`As the source has counted, in ${plural(asset.use.statements, 'different statement')}; what Idrel asks is left out`}
            >
              <span>
                {plural(asset.use.calls, 'time')} by {plural(asset.use.roles, 'role')}, last before{' '}
                <When at={asset.use.movedAt} />
              </span>
            </Tooltip>
          </div>
        ) : null}
        <div className="field">
          <span className="label">First seen</span>
          <When at={asset.firstSeen} />
        </div>
        <div className="field">
          <span className="label">Last seen</span>
          <When at={asset.lastSeen} />
        </div>
        <div className="field">
          <span className="label">Address</span>
          <CopyButton value={window.location.origin + window.location.pathname}>
            {({ copied, copy }) => (
              <button type="button" className="linkish" style={{ textAlign: 'left' }} onClick={copy}>
                {copied ? 'Copied' : 'Copy the address'}
              </button>
            )}
          </CopyButton>
        </div>
      </aside>
    </div>
  );
}

/** The section that the reader is at. */
function useReader(): string {
  const [here, setHere] = useState<string>('meaning');
  useEffect(() => {
    const root = document.getElementById('main');
    const seen = () => {
      const passed = SECTIONS.filter(
        ([key]) => (document.getElementById(key)?.getBoundingClientRect().top ?? 9999) < 160,
      );
      setHere(passed.at(-1)?.[0] ?? 'meaning');
    };
    root?.addEventListener('scroll', seen, { passive: true });
    return () => root?.removeEventListener('scroll', seen);
  }, []);
  return here;
}

function Contents({ asset }: { asset: AssetAnswer }) {
  const { data, error } = useChildrenQuery(asset.id, { skip: asset.kind === 'column' });
  if (asset.kind === 'column')
    return <p className="quiet">A column holds values; what they are like stands under Profile.</p>;
  if (error) return <Trouble error={error} what="What it holds cannot be shown" />;
  if (!data) return <Coming lines={4} />;
  if (data.length === 0)
    return <p className="quiet">Nothing inside{asset.native.problem ? `: ${String(asset.native.problem)}` : ''}.</p>;
  return (
    <table className="plain">
      <thead>
        <tr>
          <th>Kind</th>
          <th>Name</th>
          <th>Type</th>
          <th>Meaning</th>
          <th>Classes</th>
          <th>Level</th>
        </tr>
      </thead>
      <tbody>
        {data.map((child) => (
          <tr key={child.id}>
            <td>
              <KindMark kind={child.kind} />
            </td>
            <td>
              <Link to={`/assets/${child.id}`} style={child.gone ? { textDecoration: 'line-through' } : {}}>
                <Name text={child.name} most={30} />
              </Link>
            </td>
            <td className="mono quiet">{child.type ?? (child.rows === null ? '' : plural(child.rows, 'row'))}</td>
            <td>{child.description ?? <span className="quiet">{child.comment ?? ''}</span>}</td>
            <td>
              <ClassChips classes={child.classes} most={2} />
            </td>
            <td>
              <Level level={child.level} bare />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Neighbours({ id }: { id: string }) {
  const up = useImpactQuery({ asset: id, direction: 'upstream' });
  const down = useImpactQuery({ asset: id, direction: 'downstream' });
  const list = (title: string, rows: typeof up.data) => (
    <div className="grow">
      <h3>{title}</h3>
      {rows && rows.length > 0 ? (
        <ul style={{ margin: '4px 0', paddingLeft: 0, listStyle: 'none' }}>
          {rows.slice(0, 12).map((row) => (
            <li key={row.id} className="row" style={{ padding: '2px 0' }}>
              <KindMark kind={row.kind} />
              <Link to={`/assets/${row.id}`} className="cut">
                <Name text={row.path} most={34} />
              </Link>
              <span className="quiet small">
                {row.how}
                {row.distance > 1 ? `, ${row.distance} steps` : ''}
              </span>
            </li>
          ))}
        </ul>
      ) : (
        <p className="quiet">nothing known</p>
      )}
      {rows && rows.length > 12 ? <p className="quiet small">and {count(rows.length - 12)} more</p> : null}
    </div>
  );
  return (
    <>
      <div className="row" style={{ alignItems: 'flex-start', gap: 24 }}>
        {list('Comes from', up.data)}
        {list('Goes to', down.data)}
      </div>
      <p style={{ marginTop: 8 }}>
        <Link to={`/lineage?focus=${id}`}>See the picture</Link>
      </p>
    </>
  );
}

function WhoCanRead({ asset }: { asset: AssetAnswer }) {
  const session = useSessionQuery();
  const me = session.data?.person?.id ?? '';
  const [person, setPerson] = useState(me);
  const people = usePeopleQuery();
  const { data, error } = useExplainQuery({ person: person || me, asset: asset.id }, { skip: !me });
  return (
    <div className="stack">
      <Select
        label="Who"
        w={240}
        data={(people.data ?? []).map((entry) => ({ value: entry.id, label: entry.name }))}
        value={person || me}
        onChange={(value) => setPerson(value ?? me)}
        searchable
      />
      {error ? <Trouble error={error} what="This cannot be explained" /> : null}
      {data?.length === 0 ? <p className="quiet">Policies hold for tables and views of databases.</p> : null}
      {data?.map((table) => (
        <div key={table.tableId}>
          <h3>
            {table.path}: {{ yes: 'yes', partly: 'partly', no: 'no' }[table.access]}
          </h3>
          <table className="plain">
            <tbody>
              {table.columns.map((column) => (
                <tr key={column.name}>
                  <td className="mono">{column.name}</td>
                  <td>
                    {column.access === 'plain' ? (
                      'read'
                    ) : column.access === 'masked' ? (
                      `masked (${column.mask})`
                    ) : (
                      <span className="attention">refused</span>
                    )}
                  </td>
                  <td className="quiet">
                    {column.reasons.map((reason) => `${reason.effect}: ${reason.policy}`).join('; ') ||
                      'no policy allows it'}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      ))}
    </div>
  );
}

function Journal({ id }: { id: string }) {
  const { data, error } = useJournalQuery(id);
  if (error) return <Trouble error={error} what="The history cannot be shown" />;
  return <History entries={data ?? []} />;
}
