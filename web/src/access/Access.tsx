import type { PoliciesChecked, PolicyAnswer } from '@idrel/contract/access';
import { maskInWords } from '@idrel/core/access/masks';
import { hoursInWords, limitInWords } from '@idrel/core/access/words';
import { Button, Checkbox, Group, SegmentedControl } from '@mantine/core';
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { useSessionQuery } from '../app/api.ts';
import { useKeys } from '../app/keys.tsx';
import { plural } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useGroupsQuery, usePeopleQuery } from '../people/index.ts';
import { useClassLabel } from '../recognition/index.ts';
import { useCrumbs } from '../shell/crumbs.tsx';
import { useCheckedPoliciesQuery, usePoliciesQuery } from './api.ts';
import { Bypasses } from './Bypasses.tsx';
import { lastDay } from './Conditions.tsx';
import { Explain } from './Explain.tsx';
import { Held } from './Held.tsx';
import { PolicyEditor } from './PolicyEditor.tsx';
import { PolicyFile } from './PolicyFile.tsx';
import { OPENS } from './policyFields.ts';
import { Report } from './Report.tsx';
import { Requests } from './Requests.tsx';
import { Reviews } from './Reviews.tsx';
import { Rights } from './Rights.tsx';
import { useRequestsQuery } from './requestsApi.ts';
import { Shares } from './Shares.tsx';
import { TryAs } from './TryAs.tsx';

/** What is shown beside the policies. */
const SHOWN: Readonly<Partial<Record<string, string>>> = {
  try: 'Try it as',
  explain: 'Explain',
  requests: 'Requests',
  reviews: 'Reviews',
  sources: 'At the sources',
  held: 'Held',
  report: 'Report',
  shares: 'Shares',
};

/** Policies as sentences; trying them; explaining them. */
export function Component() {
  const [params, setParams] = useSearchParams();
  const show = params.get('show') ?? 'policies';
  const waiting = useRequestsQuery({ which: 'waiting', limit: 1 }).data?.total ?? 0;
  const edit = params.get('edit');
  const asFile = params.has('file');
  const session = useSessionQuery();
  const mayMake =
    session.data?.grants.some((grant) => ['policy administrator', 'administrator'].includes(grant.role)) ?? false;
  const asRights = mayMake && params.get('as') === 'rights';
  useCrumbs(
    { text: 'Access', to: '/access' },
    ...(edit ? [{ text: edit === 'new' ? 'New policy' : 'Policy' }] : SHOWN[show] ? [{ text: SHOWN[show] }] : []),
  );
  useKeys('Access', [
    { key: 'n', what: 'new policy', act: () => mayMake && setParams({ edit: 'new' }) },
    { key: 't', what: 'try it as somebody', act: () => setParams({ show: 'try' }) },
  ]);
  if (edit) return <PolicyEditor id={edit} close={() => setParams({})} />;
  return (
    <div className="page">
      <div className={show === 'report' ? 'head noprint' : 'head'}>
        <div>
          <h1>Access</h1>
          <p className="quiet">
            Deny wins over protect, protect over allow; without an allow nothing is read. Of several masks the one that
            tells least holds.
          </p>
        </div>
        {mayMake && show === 'policies' ? (
          <Group gap={8}>
            {asFile ? null : (
              <Button variant="default" onClick={() => setParams({ file: 'yes' })}>
                As a file
              </Button>
            )}
            <Button onClick={() => setParams({ edit: 'new' })}>New policy</Button>
          </Group>
        ) : null}
      </div>
      <SegmentedControl
        className="noprint"
        mb={14}
        aria-label="What is shown"
        value={show}
        onChange={(value) => setParams(value === 'policies' ? {} : { show: value })}
        data={[
          { value: 'policies', label: 'Policies' },
          { value: 'try', label: 'Try it as' },
          { value: 'explain', label: 'Explain' },
          { value: 'requests', label: waiting > 0 ? `Requests (${waiting})` : 'Requests' },
          { value: 'reviews', label: 'Reviews' },
          ...(mayMake
            ? [
                { value: 'sources', label: 'At the sources' },
                { value: 'held', label: 'Held' },
                { value: 'report', label: 'Report' },
                { value: 'shares', label: 'Shares' },
              ]
            : []),
        ]}
      />
      {show === 'try' ? (
        <TryAs />
      ) : show === 'explain' ? (
        <Explain />
      ) : show === 'held' ? (
        <Held />
      ) : show === 'sources' ? (
        <Bypasses />
      ) : show === 'requests' ? (
        <Requests />
      ) : show === 'reviews' ? (
        <Reviews />
      ) : show === 'report' ? (
        <Report />
      ) : show === 'shares' ? (
        <Shares />
      ) : (
        <>
          {asFile && mayMake ? <PolicyFile done={() => setParams({})} /> : null}
          {mayMake ? (
            <SegmentedControl
              mb={12}
              display="flex"
              w="fit-content"
              aria-label="As policies or as rights"
              value={asRights ? 'rights' : 'policies'}
              onChange={(as) => setParams(as === 'rights' ? { as } : {})}
              data={[
                { value: 'policies', label: 'As policies' },
                { value: 'rights', label: 'As rights' },
              ]}
            />
          ) : null}
          {asRights ? (
            <Rights edit={(id) => setParams({ edit: id })} />
          ) : (
            <Policies edit={(id) => setParams({ edit: id })} mayMake={mayMake} />
          )}
        </>
      )}
    </div>
  );
}

/** Why a policy changes nothing for anybody. */
const IDLE: Readonly<Record<PoliciesChecked['idle'][number]['because'], string>> = {
  nobody: 'nobody is meant',
  nothing: 'there is nothing that it holds for',
  denied: 'all of it is denied',
  'not theirs': 'whoever gave it on may not give it on any more',
  'not allowed': 'nobody whom it is for may read any of it',
  ended: 'it has ended',
};

function Policies({ edit, mayMake }: { edit: (id: string) => void; mayMake: boolean }) {
  const { data, error, refetch } = usePoliciesQuery(undefined);
  const checked = useCheckedPoliciesQuery(undefined, { skip: !mayMake });
  const [all, setAll] = useState(false);
  if (error) return <Trouble error={error} what="The policies cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  if (data.length === 0)
    return (
      <Empty title="No policy yet">
        <p>
          Without a policy nobody reads anything through the gateway. A policy is one sentence: who may read what, or
          how it is protected.{' '}
          <button type="button" className="linkish" onClick={() => edit('new')}>
            Write the first one
          </button>
        </p>
      </Empty>
    );
  const isOwn = ({ requestId, shareId }: PolicyAnswer) => requestId === null && shareId === null;
  const answering = data.filter((policy) => !isOwn(policy)).length;
  const shown = all ? data : data.filter(isOwn);
  const idle = new Map(
    (checked.data?.idle ?? []).map(({ policyId, because, by }) => [
      policyId,
      by.length > 0 ? `${IDLE[because]} by ${by.map((name) => `“${name}”`).join(', ')}` : IDLE[because],
    ]),
  );
  return (
    <div className="stack">
      {answering > 0 ? (
        <Checkbox
          label={`Also ${plural(answering, 'policy that is part of a request or a share', 'policies that are part of requests and shares')}`}
          checked={all}
          onChange={(event) => setAll(event.currentTarget.checked)}
        />
      ) : null}
      {(checked.data?.clashes ?? []).map(({ policies, columns, example }) => (
        <p key={policies.map(({ id }) => id).join(' ')} className="notice">
          {policies.map(({ name }) => `“${name}”`).join(' and ')} mask {plural(columns, 'column')} in ways of which each
          tells what the other hides, as {example}: {columns === 1 ? 'it is' : 'they are'} left empty.
        </p>
      ))}
      <Listing heads={['Effect', 'Policy', 'As a sentence', 'State']}>
        {shown.map((policy) => (
          <tr key={policy.id}>
            <td>
              <strong className={policy.effect === 'deny' ? 'attention' : ''}>{policy.effect}</strong>
            </td>
            <td>
              <button type="button" className="linkish" onClick={() => edit(policy.id)}>
                {policy.name}
              </button>
            </td>
            <td>
              <Sentence policy={policy} />
              {policy.requestId ? (
                <div className="small">
                  <Link
                    to={`/access?show=requests&request=${policy.requestId}`}
                    aria-label={`Its request: ${policy.name}`}
                  >
                    Its request
                  </Link>
                </div>
              ) : null}
              {policy.shareId ? (
                <div className="small">
                  <Link to={`/access?show=shares&share=${policy.shareId}`} aria-label={`Its share: ${policy.name}`}>
                    Its share
                  </Link>
                </div>
              ) : null}
            </td>
            <td>
              {!policy.enabled ? (
                <span className="quiet">off</span>
              ) : policy.until && Date.parse(policy.until) <= Date.now() ? (
                <span className="quiet">ended</span>
              ) : idle.has(policy.id) ? (
                <span className="attention">does nothing: {idle.get(policy.id)}</span>
              ) : (
                'in force'
              )}
              {mayMake && policy.enabled && policy.effect !== 'allow' ? (
                <div className="small">
                  <Link
                    to={`/access?show=sources&policy=${policy.id}`}
                    aria-label={`What gets around it: ${policy.name}`}
                  >
                    What gets around it
                  </Link>
                </div>
              ) : null}
            </td>
          </tr>
        ))}
      </Listing>
    </div>
  );
}

/** A policy in words. */
function Sentence({ policy }: { policy: PolicyAnswer }) {
  const groups = useGroupsQuery();
  const people = usePeopleQuery();
  const labelOf = useClassLabel();
  const named = (ids: readonly string[], list: readonly { id: string; name: string }[] | undefined) =>
    ids.map((id) => list?.find((entry) => entry.id === id)?.name ?? '…');
  const whom = [
    ...(policy.everyone ? ['everyone'] : []),
    ...named(policy.groupIds, groups.data),
    ...named(policy.personIds, people.data),
  ].join(', ');
  const except =
    policy.exceptGroupIds.length > 0 ? ` except ${named(policy.exceptGroupIds, groups.data).join(', ')}` : '';
  const classes = policy.classKeys.map(labelOf).join(', ');
  const assets = policy.assets.map((asset) => asset.path).join(', ');
  const ofColumns = policy.columns ? `${policy.columnsBut ? 'all but' : 'only'} ${policy.columns.join(', ')} of ` : '';
  const listed = [classes, assets && `${ofColumns}${assets}`].filter(Boolean).join(' in ');
  const what = policy.filter
    ? listed
      ? `${listed}, of these what matches ${policy.filter}`
      : `${ofColumns}whatever matches ${policy.filter}`
    : listed;
  const when = [
    policy.purposes.length > 0 ? `, for who states ${policy.purposes.map((one) => `“${one}”`).join(' or ')}` : '',
    policy.hours ? `, ${hoursInWords(policy.hours)}` : '',
    policy.until ? `, until the end of ${lastDay(policy.until)}` : '',
  ].join('');
  if (policy.effect === 'allow')
    return (
      <>
        Allow {whom}
        {except} {OPENS[policy.opens]} {policy.columns || policy.opens !== 'read' ? '' : 'all of '}
        {what}
        {policy.opens === 'see' ? `, and of all that lies in ${policy.assetIds.length === 1 ? 'it' : 'them'}` : ''}
        {policy.passesOn ? ', and to give that on' : ''}
        {when}.{policy.givenBy ? ` ${policy.givenBy} gave it on: as far as they may.` : ''}
      </>
    );
  if (policy.effect === 'deny')
    return (
      <>
        Deny {whom}
        {except} {what}
        {policy.carried ? ', and what carries it on' : ''}
        {when}.
      </>
    );
  return (
    <>
      Protect {what}
      {policy.carried ? ', and what carries it on,' : ''} from {whom}
      {except}:{' '}
      {policy.mask
        ? `shown as ${maskInWords(policy.mask)}`
        : policy.rows
          ? `${policy.rows.least === undefined ? 'only rows where ' : ''}${limitInWords(policy.rows, policy.rights)}`
          : ''}
      {when}.
    </>
  );
}
