import type { AssetAnswer } from '@idrel/contract/catalog';
import { kindsThat } from '@idrel/core/things';
import { Box, Button, Group, Tooltip } from '@mantine/core';
import { useEffect, useState } from 'react';
import { useParams, useSearchParams } from 'react-router';
import { AskHere, Give, ReportImage, Rows } from '../access/index.ts';
import { useSessionQuery } from '../app/api.ts';
import { useKeys } from '../app/keys.tsx';
import { sayDone, sayProblem } from '../app/say.ts';
import { Description, Facts, Missing, Notices, Suggestions, Tickets } from '../curation/index.ts';
import { Subscribe, TakeOut } from '../exchange/index.ts';
import { useTakeDrawnAwayMutation } from '../lineage/index.ts';
import { Code } from '../marks/Code.tsx';
import { bytes, KindMark, Name, plural, StandingMark, When } from '../marks/index.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { FindingList } from '../recognition/index.ts';
import { FlowRuns } from '../scanning/index.ts';
import { useCrumbs } from '../shell/crumbs.tsx';
import { Discussions, Guide } from '../writing/index.ts';
import { Journal } from './AssetJournal.tsx';
import { useAssetQuery, useChildrenQuery } from './api.ts';
import { SECTIONS } from './assetSections.ts';
import { Contents } from './Contents.tsx';
import { Copying } from './Copying.tsx';
import { DESCRIBED_KINDS, Described } from './Described.tsx';
import { Keys } from './Keys.tsx';
import { Links } from './Links.tsx';
import { looked } from './lately.ts';
import { NativeFacts } from './NativeFacts.tsx';
import { Neighbours } from './Neighbours.tsx';
import { Origins } from './Origins.tsx';
import { Profile } from './Profile.tsx';
import { SourceRights } from './SourceRights.tsx';
import { Use } from './Use.tsx';
import { useReader, WhoCanRead } from './WhoCanRead.tsx';

/** An asset's page: one page, read from top to bottom. */
export function Component() {
  const { id = '' } = useParams();
  const { data: asset, error, refetch } = useAssetQuery(id);
  // What lies in it is asked for together with it: for most who come that is what they come for, and what takes longest to draw.
  const contents = useChildrenQuery(id);
  const person = useSessionQuery().data?.person?.id ?? '';
  useEffect(() => {
    if (person && asset) looked(person, asset);
  }, [person, asset]);
  useCrumbs(
    { text: 'Catalog', to: '/catalog' },
    ...(asset?.ancestors ?? []).map(({ id: above, name, seen }) => ({
      text: name,
      ...(seen ? { to: `/assets/${above}` } : {}),
    })),
    { text: asset?.name ?? '…' },
  );
  if (error) return <Trouble error={error} what="This asset cannot be shown" again={() => void refetch()} />;
  if (!asset || asset.id !== id) return <Coming />;
  return <Page key={asset.id} asset={asset} filled={!contents.isLoading} />;
}

/** @param filled what lies in it is there: what stands further down, or comes beside, is asked for only then */
function Page({ asset, filled }: { asset: AssetAnswer; filled: boolean }) {
  const inside = useChildrenQuery(asset.id);
  const [editing, setEditing] = useState(false);
  const here = useReader();
  const [search] = useSearchParams();
  useKeys('Asset', [{ key: 'e', what: 'edit the description', act: () => setEditing(true) }]);
  const native = asset.native as {
    definition?: string;
    codeLanguage?: string;
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
    image?: readonly string[];
    format?: string;
    problem?: string;
  };
  const left = leftOut(asset);
  return (
    <div className="asset">
      <nav className="contents" aria-label="On this page">
        {SECTIONS.filter(([key]) => !left.has(key)).map(([key, label]) => (
          <a key={key} href={`#${key}`} className={here === key ? 'here' : ''}>
            {label}
          </a>
        ))}
      </nav>
      <article>
        <Group mb={4}>
          <KindMark kind={asset.kind} />
          <h1>
            <Name text={asset.name} most={60} />
          </h1>
          <StandingMark standing={asset.standing} />
          <span className="grow" />
          <Subscribe what="asset" of={asset.id} called={asset.name} />
        </Group>
        <Box className="quiet" mb={18}>
          {asset.kind} in {asset.source}, {asset.domain}
          {asset.rows !== null ? ` · about ${plural(asset.rows, 'row')}` : ''}
          {native.bytes ? ` · ${bytes(native.bytes)}` : ''}
        </Box>
        {asset.byPolicy ? (
          <Box className="notice quiet" mb={14}>
            Shown to you by a policy: you have no role in {asset.domain}, and see of it what is shown so.
          </Box>
        ) : null}
        {asset.gone ? (
          <Box className="notice" mb={14}>
            Gone from the source since <When at={asset.goneAt} />. Everything people wrote is kept, and comes back with
            it.
          </Box>
        ) : null}
        <TakeAway asset={asset} />
        <Missing asset={asset} />
        <Notices key={`notices:${asset.id}`} asset={asset} />
        <section id="meaning">
          <h2>Meaning</h2>
          <Description
            asset={asset}
            empty={asset.mayEdit ? 'Write what it means …' : 'Not described yet.'}
            open={editing}
            onOpen={setEditing}
          />
          {asset.comment ? (
            <Box component="p" mt={8}>
              <span className="quiet">The source says: </span>
              {asset.comment}
            </Box>
          ) : null}
          {filled ? <Suggestions key={`suggestions:${asset.id}`} asset={asset} /> : null}
        </section>
        <section id="guide">
          <h2>Guide</h2>
          <Guide key={asset.id} asset={asset} />
        </section>
        <section id="columns">
          <h2>Contents</h2>
          {native.image && filled && !asset.gone ? (
            <ReportImage key={`image:${asset.id}`} id={asset.id} name={asset.name} source={asset.source} />
          ) : null}
          {DESCRIBED_KINDS.includes(asset.kind) || asset.kind === 'flow' ? null : <Contents asset={asset} />}
          {asset.kind === 'table' ? <Keys key={`keys:${asset.id}`} asset={asset} /> : null}
          {asset.kind === 'report' || asset.kind === 'dashboard' ? <Origins id={asset.id} /> : null}
          <Described asset={asset} />
          {native.parts ? (
            <Box component="p" className="quiet" mt={10}>
              {native.partitionedBy ? `Partitioned by ${native.partitionedBy}` : 'Made of parts'}
              {native.files ? `, ${plural(native.files, 'file')}` : ''}:{' '}
              {native.parts.map((part) => part.name).join(', ')}
              {native.files && native.files > native.parts.length ? ' and earlier ones' : ''}
            </Box>
          ) : null}
          {native.variants ? (
            <Box className="notice" mt={10}>
              Not all parts have the same columns. Of {native.lookedInto} that were looked into:
              {native.variants.map((variant) => (
                <div key={variant.part} className="mono small">
                  {variant.part}
                  {variant.parts > 1 ? ` and ${plural(variant.parts - 1, 'other')}` : ''}:{' '}
                  {variant.differences.join('; ')}
                </div>
              ))}
            </Box>
          ) : null}
          {asset.kind === 'flow' ? (
            <>
              <h3 className="under">Runs</h3>
              {filled ? <FlowRuns key={`runs:${asset.id}`} id={asset.id} /> : null}
            </>
          ) : null}
          {native.definition ? (
            <>
              <h3 className="under">{asset.kind === 'flow' ? 'Code' : 'Definition'}</h3>
              <Code
                text={native.definition}
                line={Number(search.get('line')) || null}
                {...(native.codeLanguage ? { language: native.codeLanguage } : {})}
              />
            </>
          ) : null}
        </section>
        {left.has('rows') ? null : (
          <section id="rows">
            <h2>{asset.kind === 'column' ? 'Values' : 'Rows'}</h2>
            <Rows key={asset.id} id={asset.id} kind={asset.kind} />
          </section>
        )}
        {left.has('profile') ? null : (
          <section id="profile">
            <h2>Profile</h2>
            {filled ? <Profile asset={asset} /> : null}
          </section>
        )}
        {left.has('findings') ? null : (
          <section id="findings">
            <h2>Findings</h2>
            {filled ? <FindingList asset={asset.id} /> : null}
          </section>
        )}
        <section id="lineage">
          <h2>Lineage</h2>
          {filled ? <Neighbours id={asset.id} /> : null}
        </section>
        {left.has('use') ? null : (
          <section id="use">
            <h2>Use</h2>
            {filled ? <Use key={asset.id} asset={asset} /> : null}
          </section>
        )}
        <section id="access">
          <h2>Access</h2>
          {filled ? (
            <>
              <WhoCanRead asset={asset} />
              {asset.gone || !ASKED_FOR.includes(asset.kind) ? null : <AskHere key={`ask:${asset.id}`} id={asset.id} />}
              {left.has('rows') || asset.kind === 'column' ? null : <Give key={`give:${asset.id}`} id={asset.id} />}
              <SourceRights asset={asset} />
            </>
          ) : null}
        </section>
        <section id="discussion">
          <h2>Discussion</h2>
          {filled ? <Discussions key={asset.id} asset={asset} /> : null}
        </section>
        <section id="history">
          <h2>History</h2>
          {filled ? <Journal asset={asset} /> : null}
        </section>
      </article>
      <aside className="margin" id="facts" aria-label="Facts">
        <Facts asset={asset} />
        <NativeFacts asset={asset} />
        {asset.use ? (
          <div className="field">
            <span className="label">Asked for</span>
            <Tooltip
              label={`As its source has counted and through the gateway, in ${plural(asset.use.statements, 'different statement')}; what Idrel asks is left out`}
            >
              <span>
                {plural(asset.use.calls, 'time')} by {plural(asset.use.roles, 'role or person', 'roles and people')},
                last noticed <When at={asset.use.movedAt} />
              </span>
            </Tooltip>
          </div>
        ) : null}
        <div className="field">
          <span className="label">Links</span>
          <Links key={`links:${asset.id}`} asset={asset} />
        </div>
        <Tickets key={`tickets:${asset.id}`} asset={asset} />
        <div className="field">
          <span className="label">First seen</span>
          <When at={asset.firstSeen} />
        </div>
        <div className="field">
          <span className="label">Last seen</span>
          <When at={asset.lastSeen} />
        </div>
        <div className="field">
          <span className="label">Copy</span>
          <Copying asset={asset} />
        </div>
        <TakeOut
          id={asset.id}
          columns={HOLDING_ROWS.includes(asset.kind) && (inside.data ?? []).some(({ kind }) => kind === 'column')}
        />
      </aside>
    </div>
  );
}

/** What was drawn by hand can be taken away by hand. */
function TakeAway({ asset }: { asset: AssetAnswer }) {
  const [takeAway, { isLoading }] = useTakeDrawnAwayMutation();
  if (
    asset.sourceKind !== 'drawn' ||
    asset.gone ||
    !asset.mayEdit ||
    asset.parentId === null ||
    asset.kind === 'column'
  )
    return null;
  return (
    <Group mb={14}>
      <span className="quiet">Drawn by hand: no scan sees it.</span>
      <Button
        variant="default"
        size="compact-sm"
        loading={isLoading}
        onClick={() =>
          void takeAway(asset.id)
            .unwrap()
            .then(
              () => sayDone(`${asset.path} is taken away; what was written of it is kept.`),
              (error: unknown) => sayProblem(error, 'It was not taken away'),
            )
        }
      >
        Take it away
      </Button>
    </Group>
  );
}

/** Kinds of asset that somebody can ask to read. */
const ASKED_FOR: readonly string[] = ['column', 'schema', 'database', 'folder', ...kindsThat('holdsRows')];

/** Kinds whose columns can be told by themselves. */
const HOLDING_ROWS: readonly string[] = kindsThat('holdsRows');

/** Kinds of source that tell of things that lie elsewhere: there are no rows to be read there. */
const WITHOUT_ROWS: readonly string[] = ['scripts', 'reports', 'orchestrator', 'dcat', 'events', 'drawn', 'pushed'];

/** Sections that have nothing to say of an asset of this kind. */
function leftOut({ kind, sourceKind, gone, use, children }: AssetAnswer): ReadonlySet<string> {
  const described = DESCRIBED_KINDS.includes(kind) || kind === 'flow' ? ['findings'] : [];
  const profiled = children > 0 || kind === 'column' ? [] : ['profile'];
  const readable: readonly string[] = ['column', ...kindsThat('holdsRows')];
  const read = !gone && readable.includes(kind) && !WITHOUT_ROWS.includes(sourceKind);
  const asked = read && sourceKind === 'postgresql';
  return new Set([...described, ...profiled, ...(read ? [] : ['rows']), ...(asked || use ? [] : ['use'])]);
}
