import type { WorkItem } from '@idrel/contract/worklist';
import { Button, Chip, Group, Select, Stack } from '@mantine/core';
import { lazy, Suspense, useEffect, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { stateWords, useSeeRequestMutation, whatFor } from '../access/index.ts';
import { useSessionQuery } from '../app/api.ts';
import { useKeys } from '../app/keys.tsx';
import { sayDone, sayProblem } from '../app/say.ts';
import { useEditAssetMutation } from '../catalog/index.ts';
import { useNoteLapseMutation } from '../curation/index.ts';
import { count, KindMark, Level, Name, PriorityMark, plural, When } from '../marks/index.tsx';
import { Note, Pane, Panes } from '../marks/layout.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useOwnerChoices } from '../people/index.ts';
import { ClassChips, FindingPane, NOTHING_SAID, type Said, useClassLabel, useDeciding } from '../recognition/index.ts';
import { useLeaveOutMutation } from '../scanning/index.ts';
import { useCrumbs } from '../shell/crumbs.tsx';
import { useNoteDiscussionMutation } from '../writing/index.ts';
import { useSeeBreakingMutation, useSeeBrokenMutation, useSeeFailedMutation, useWorklistQuery } from './api.ts';
import { Breaking } from './Breaking.tsx';
import { Broken, brokenInWords } from './Broken.tsx';
import { Failed } from './Failed.tsx';
import { Lapsed } from './Lapsed.tsx';
import { ScanNews } from './ScanNews.tsx';
import { WaitingRoutine } from './WaitingRoutine.tsx';

// What answers requests, and what reads and writes remarks, comes when one is looked at.
const Asked = lazy(async () => ({ default: (await import('./Asked.tsx')).Asked }));
const Discussed = lazy(async () => ({ default: (await import('./Discussed.tsx')).Discussed }));

type Kind = WorkItem['kind'];
const KINDS = [
  ['all', 'All'],
  ['finding', 'Findings'],
  ['unowned', 'No owner'],
  ['request', 'Requests'],
  ['review', 'Reviews'],
  ['routine', 'Routines'],
  ['discussion', 'Questions'],
  ['lapsed', 'Lapsed'],
  ['scan', 'Scans'],
  ['breaking', 'Breaking'],
  ['failed', 'Failed'],
  ['broken', 'Broken'],
] as const satisfies readonly (readonly [Kind | 'all', string])[];

/** What stands of an item in the queue. */
function shortly(item: WorkItem): { mark: string; title: string; what: string } {
  switch (item.kind) {
    case 'finding':
      return {
        mark: 'column',
        title: item.finding.path,
        what: `${item.finding.label}? ${Math.round(item.finding.confidence * 100)} %`,
      };
    case 'breaking': {
      const mine = new Set(
        item.news.changes.flatMap((change) => change.reached.filter((asset) => asset.mine).map((asset) => asset.id)),
      );
      return {
        mark: 'source',
        title: item.news.source,
        what: `changes that can break ${plural(mine.size, 'asset')} of yours`,
      };
    }
    case 'failed': {
      const mine = item.flow.reached.filter((asset) => asset.mine).length;
      return {
        mark: 'flow',
        title: item.flow.path,
        what: mine > 0 ? `failed; ${plural(mine, 'asset')} of yours behind it` : 'its last run failed',
      };
    }
    case 'broken': {
      const mine = item.thing.reached.filter((asset) => asset.mine).length;
      return {
        mark: item.thing.kind,
        title: item.thing.path,
        what: `${brokenInWords(item.thing.what)}${mine > 0 ? `; ${plural(mine, 'asset')} of yours behind it` : ''}`,
      };
    }
    case 'lapsed':
      return { mark: item.asset.kind, title: item.asset.path, what: `no longer trusted: ${item.asset.reason}` };
    case 'discussion': {
      const { asset, remarks, question } = item.discussion;
      const last = remarks.findLast(({ gone }) => !gone);
      const who = last?.by?.name ?? 'somebody';
      return {
        mark: asset.kind,
        title: asset.path,
        what:
          item.why === 'mentioned' ? `${who} mentioned you` : `${question ? 'a question' : 'a remark'}, last by ${who}`,
      };
    }
    case 'request': {
      const { request, why } = item;
      return {
        mark: request.assets[0]?.kind ?? 'table',
        title: whatFor(request),
        what:
          why === 'answer'
            ? `${request.person.name} asks for access: ${request.purpose}`
            : why === 'answered'
              ? `your request is ${stateWords(request)}`
              : 'what was granted to you ends soon',
      };
    }
    case 'review':
      return {
        mark: 'table',
        title: item.review.name,
        what: `${plural(item.review.waiting, 'right')} to keep or to end`,
      };
    case 'routine':
      return {
        mark: 'flow',
        title: item.routine.name,
        what: {
          asks: 'asks before it goes on',
          take: 'waits for you to take it on',
          failed: 'failed',
          question: `asks you of ${plural(item.routine.changes ?? 0, 'asset')}`,
        }[item.routine.why],
      };
    case 'unowned':
      return { mark: item.asset.kind, title: item.asset.path, what: 'nobody answers for it' };
    case 'scan': {
      const { renames, uncovered } = item.scan;
      const parts = [
        renames.length > 0 ? `${count(renames.length)} likely renamed` : '',
        uncovered.length > 0 ? `${count(uncovered.length)} new, not covered` : '',
      ];
      return { mark: 'source', title: item.scan.source, what: parts.filter(Boolean).join(', ') };
    }
  }
}

/** One queue, one item open with its evidence, decided with a key, next. */
export function Component() {
  useCrumbs({ text: 'Worklist' });
  const [params, setParams] = useSearchParams();
  const kind = params.get('kind') as Kind | null;
  const { data, error, refetch } = useWorklistQuery(kind ? { kind } : {});
  const session = useSessionQuery();
  const owners = useOwnerChoices();
  const decide = useDeciding();
  const [edit] = useEditAssetMutation();
  const [see] = useSeeBreakingMutation();
  const [seeFailed] = useSeeFailedMutation();
  const [seeBroken] = useSeeBrokenMutation();
  const [seeRequest] = useSeeRequestMutation();
  const [leave] = useLeaveOutMutation();
  const [noteLapse] = useNoteLapseMutation();
  const [noteDiscussion] = useNoteDiscussionMutation();
  const [at, setAt] = useState(0);
  const [said, setSaid] = useState<Readonly<Record<string, Said>>>({});
  const labelOf = useClassLabel();
  // What was decided leaves the queue at once: the next key must never meet the item before.
  const [settled, setSettled] = useState<ReadonlySet<string>>(new Set());
  const items = (data?.items ?? []).filter((entry) => !settled.has(entry.key));
  const item = items[Math.min(at, items.length - 1)];
  useEffect(() => {
    document.querySelector(`[data-nth="${at}"]`)?.scrollIntoView({ block: 'nearest' });
  }, [at]);

  const settle = (decision: 'confirmed' | 'dismissed', others: readonly string[] = []) => {
    if (item?.kind !== 'finding') return;
    const { finding } = item;
    const { classKey, label, column } = finding;
    const own = said[item.key] ?? NOTHING_SAID;
    const assets = [finding.assetId, ...others];
    const keys = new Set(assets.map((assetId) => `${assetId}:${classKey}`));
    setSettled((before) => new Set([...before, ...keys]));
    const back = () => setSettled((before) => new Set([...before].filter((entry) => !keys.has(entry))));
    const whom = others.length > 0 ? plural(assets.length, 'column') : column;
    void decide(
      assets.map((assetId) => ({
        assetId,
        classKey,
        decision,
        reason: own.reason,
        ...(decision === 'dismissed' && assetId === finding.assetId && own.remember ? { remember: true } : {}),
        // What is decided with it waited, as far as was seen.
        seen: assetId === finding.assetId ? finding.decidedAt : null,
      })),
      decision === 'confirmed' ? `${whom} confirmed as ${label}.` : `${label} dismissed for ${whom}.`,
      back,
    );
  };
  const change = (classKey: string | null) => {
    if (item?.kind !== 'finding' || !classKey) return;
    const { finding, key } = item;
    setSettled((before) => new Set(before).add(key));
    void decide(
      [
        {
          assetId: finding.assetId,
          classKey: finding.classKey,
          decision: 'dismissed',
          reason: `It is: ${labelOf(classKey)}`,
          seen: finding.decidedAt,
        },
        { assetId: finding.assetId, classKey, decision: 'confirmed' },
      ],
      `${finding.column} is ${labelOf(classKey)}, not ${finding.label}.`,
      () => setSettled((before) => new Set([...before].filter((entry) => entry !== key))),
    );
  };
  const own = async (personId: string | undefined) => {
    if (item?.kind !== 'unowned' || !personId) return;
    try {
      const after = await edit({
        id: item.asset.id,
        version: item.asset.version,
        change: { ownerIds: [personId] },
      }).unwrap();
      sayDone(`${after.name} is answered for by ${after.owners.map((person) => person.name).join(', ')}.`, () =>
        edit({ id: after.id, version: after.version, change: { ownerIds: [] } }),
      );
    } catch (failed) {
      sayProblem(failed, 'The owner was not saved');
    }
  };
  /** Takes what only waits to be known off the list. */
  const note = () => {
    const noting = (noted: boolean) => {
      if (item?.kind === 'breaking') return see({ runId: item.news.runId, seen: noted }).unwrap();
      if (item?.kind === 'failed') return seeFailed({ id: item.flow.id, runId: item.flow.runId, seen: noted }).unwrap();
      if (item?.kind === 'broken') {
        const { id, what, sign } = item.thing;
        return seeBroken({ id, what, sign, seen: noted }).unwrap();
      }
      if (item?.kind === 'lapsed') return noteLapse({ id: item.asset.id, noted }).unwrap();
      if (item?.kind === 'request' && item.why !== 'answer')
        return seeRequest({ id: item.request.id, what: item.why, seen: noted }).unwrap();
      if (item?.kind === 'discussion' && item.why === 'mentioned')
        return noteDiscussion({ id: item.discussion.id, noted }).unwrap();
      return undefined;
    };
    noting(true)?.then(
      () => sayDone('Noted.', () => noting(false)),
      (error: unknown) => sayProblem(error, 'It was not noted'),
    );
  };
  const leaveNewOut = () => {
    if (item?.kind !== 'scan' || !item.scan.planId || item.scan.uncovered.length === 0) return;
    const { planId, plan, uncovered: paths } = item.scan;
    const say = (error: unknown) => sayProblem(error, 'They were not left out');
    leave({ planId, paths, out: true })
      .unwrap()
      .then(
        () =>
          sayDone(`${plan} leaves ${plural(paths.length, 'new object')} out.`, () =>
            leave({ planId, paths, out: false }),
          ),
        say,
      );
  };
  const move = (step: number) => setAt((before) => Math.max(0, Math.min(items.length - 1, before + step)));
  useKeys('Worklist', [
    { key: 'j', what: 'next item', act: () => move(1) },
    { key: 'k', what: 'item before', act: () => move(-1) },
    { key: 'c', what: 'confirm the finding', act: () => settle('confirmed') },
    { key: 'd', what: 'dismiss the finding', act: () => settle('dismissed') },
    {
      key: 'n',
      what: 'noted: take breaking changes, a failed run, what is broken, a lapse, a mention or an answered request off',
      act: note,
    },
    { key: 'l', what: 'leave new objects out of the plan', act: leaveNewOut },
    { key: 'm', what: 'make me the owner', act: () => void own(session.data?.person?.id) },
  ]);
  if (error) return <Trouble error={error} what="The worklist cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  return (
    <Panes first="minmax(300px, 36%)">
      <Pane as="list">
        <div className="stack above">
          <h1>Worklist</h1>
          <Chip.Group
            value={kind ?? 'all'}
            onChange={(value) => {
              setAt(0);
              setParams(value === 'all' ? {} : { kind: String(value) }, { replace: true });
            }}
          >
            <Group gap={4} wrap="wrap" role="radiogroup" aria-label="Kind of item">
              {KINDS.map(([value, label]) => (
                <Chip key={value} value={value} size="xs" radius={3} variant="outline">
                  {label}
                  {value === 'all' ? '' : ` ${count(data.counts[value])}`}
                </Chip>
              ))}
            </Group>
          </Chip.Group>
        </div>
        <ul className="flat" aria-label="Items">
          {items.map((entry, index) => (
            <li key={entry.key} data-nth={index}>
              <button type="button" className="waiting" aria-current={item === entry} onClick={() => setAt(index)}>
                <span className="row">
                  <KindMark kind={shortly(entry).mark} />
                  <span className="grow cut">
                    <Name text={shortly(entry).title} most={36} />
                  </span>
                </span>
                <Note>{shortly(entry).what}</Note>
              </button>
            </li>
          ))}
        </ul>
      </Pane>
      <Pane as="one">
        {!item ? (
          <Empty title="Nothing waits for you">
            <p>
              Findings to settle, assets without owner, requests for access, rights to review, questions about what you
              answer for, certifications that lapsed, what scans left to decide, changes that can break something of
              yours, flows that failed, and what is broken besides come here.{' '}
              <Link to="/catalog">Look around in the catalog</Link>.
            </p>
          </Empty>
        ) : item.kind === 'finding' ? (
          <FindingPane
            key={item.key}
            finding={item.finding}
            said={said[item.key] ?? NOTHING_SAID}
            say={(changes) => setSaid({ ...said, [item.key]: { ...(said[item.key] ?? NOTHING_SAID), ...changes } })}
            settle={settle}
            change={change}
          />
        ) : item.kind === 'breaking' ? (
          <Breaking news={item.news} seen={note} />
        ) : item.kind === 'failed' ? (
          <Failed flow={item.flow} seen={note} />
        ) : item.kind === 'broken' ? (
          <Broken thing={item.thing} seen={note} />
        ) : item.kind === 'lapsed' ? (
          <Lapsed asset={item.asset} note={note} />
        ) : item.kind === 'discussion' ? (
          <Suspense fallback={<Coming />}>
            <Discussed key={item.key} item={item} note={note} />
          </Suspense>
        ) : item.kind === 'request' ? (
          <Suspense fallback={<Coming />}>
            <Asked key={item.key} item={item} note={note} />
          </Suspense>
        ) : item.kind === 'routine' ? (
          <WaitingRoutine routine={item.routine} />
        ) : item.kind === 'review' ? (
          <Stack gap={16}>
            <h2>{item.review.name}</h2>
            <p>
              {plural(item.review.waiting, 'right')} to read what you answer for{' '}
              {item.review.waiting === 1 ? 'waits' : 'wait'} to be kept or ended, until <When at={item.review.endsAt} />
              .{' '}
              {item.review.rest === 'ends' ? 'What nobody has kept by then ends.' : 'What nobody has decided on stays.'}
            </p>
            <div>
              <Button component={Link} to={`/access?show=reviews&review=${item.review.id}`}>
                Go through them
              </Button>
            </div>
          </Stack>
        ) : item.kind === 'scan' ? (
          <ScanNews scan={item.scan} leaveOut={leaveNewOut} />
        ) : (
          <Stack gap={16}>
            <div>
              <h2>
                Who answers for{' '}
                <Link to={`/assets/${item.asset.id}`} className="mono">
                  {item.asset.name}
                </Link>
                ?
              </h2>
              <p className="quiet">
                {item.asset.kind} in {item.asset.source} · {item.asset.domain} · {count(item.asset.columns)} columns
              </p>
            </div>
            <Group gap={24}>
              <Level level={item.asset.level} />
              {item.asset.priority > 0 ? <PriorityMark grade={item.asset.priority} /> : null}
              <ClassChips classes={item.asset.classes} most={6} />
            </Group>
            <Group align="flex-end">
              <Select
                label="Owner"
                w={260}
                searchable
                placeholder="Choose a person"
                data={owners}
                value={null}
                onChange={(value) => void own(value ?? undefined)}
              />
              <Button variant="default" onClick={() => void own(session.data?.person?.id)}>
                Make me the owner <kbd>m</kbd>
              </Button>
            </Group>
          </Stack>
        )}
      </Pane>
    </Panes>
  );
}
