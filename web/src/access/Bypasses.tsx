import type { BypassAnswer } from '@idrel/contract/access';
import { chainInWords } from '@idrel/core/access/rights';
import { Group, Select, Switch } from '@mantine/core';
import { Link } from 'react-router';
import { useAddress } from '../app/address.ts';
import { Level, plural, When } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useBypassesQuery, usePoliciesQuery } from './api.ts';
import { Bypass } from './Bypass.tsx';
import { Enforcement } from './Enforcement.tsx';
import { NativeRoles } from './NativeRoles.tsx';
import { RightWords } from './RightWords.tsx';

/** By which a right is named in the address. */
export const keyOfBypass = ({ sourceId, how, holder, through, schema }: BypassAnswer): string =>
  JSON.stringify([sourceId, how, holder, through, schema]);

/** Rights at the sources that give more than the policies do: all of them, one of them, or the roles of a source. */
export function Bypasses() {
  const [params, put] = useAddress();
  const [source, policy, asset, right, roles, held] = ['source', 'policy', 'asset', 'right', 'roles', 'held'].map(
    (key) => params.get(key),
  ) as [string | null, string | null, string | null, string | null, string | null, string | null];
  const { data, error, isFetching, refetch } = useBypassesQuery(
    { ...(source ? { source } : {}), ...(policy ? { policy } : {}), ...(asset ? { asset } : {}) },
    { skip: roles !== null || held !== null },
  );
  const policies = usePoliciesQuery(undefined, { skip: policy === null });
  if (held !== null) return <Enforcement id={held} back={() => put({ held: null })} />;
  if (roles !== null) return <NativeRoles id={roles} back={() => put({ roles: null })} />;
  if (error) return <Trouble error={error} what="Rights at the sources cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  const chosen = right === null ? undefined : data.items.find((item) => keyOfBypass(item) === right);
  if (right !== null && !isFetching)
    return chosen ? (
      <Bypass bypass={chosen} back={() => put({ right: null })} />
    ) : (
      <Empty title="It gives no more than the policies do">
        <p>
          This right was taken away at the source, or the policies allow what it opens.{' '}
          <button type="button" className="linkish" onClick={() => put({ right: null })}>
            Show all rights
          </button>
        </p>
      </Empty>
    );
  if (data.sources.length === 0)
    return (
      <Empty title="No rights were read yet">
        <p>
          When a PostgreSQL database is scanned, its own rights are read as well: who can read what there without the
          gateway. What they give beyond the policies is listed here. <Link to="/sources">Scan a source</Link>
        </p>
      </Empty>
    );
  const accepted = data.items.filter((item) => item.accepted !== null && item.accepted.more === 0);
  const showsAccepted = params.get('accepted') === 'yes';
  const items = showsAccepted ? data.items : data.items.filter((item) => !accepted.includes(item));
  const named = policies.data?.find(({ id }) => id === policy)?.name;
  return (
    <div className={isFetching ? 'stack fading' : 'stack'}>
      <p className="quiet">
        Whoever comes into a source by its own rights does not pass the gateway. These rights give more than the
        policies do: they open what a policy keeps, or sensitive columns that no policy allows.
      </p>
      {data.sources
        .filter(({ holds }) => holds === false)
        .map(({ id, name }) => (
          <p key={id} className="notice">
            {name} does not hold the policies as they are.{' '}
            <button type="button" className="linkish" onClick={() => put({ held: id })}>
              See what differs
            </button>
          </p>
        ))}
      <Group wrap="wrap">
        <Select
          aria-label="Source"
          placeholder="All sources"
          clearable
          w={220}
          data={data.sources.map(({ id, name }) => ({ value: id, label: name }))}
          value={source}
          onChange={(value) => put({ source: value })}
        />
        {source ? (
          <button type="button" className="linkish" onClick={() => put({ roles: source })}>
            Who comes in as which role
          </button>
        ) : null}
        {source ? (
          <button type="button" className="linkish" onClick={() => put({ held: source })}>
            Policies held by the source itself
          </button>
        ) : null}
        {accepted.length > 0 ? (
          <Switch
            label={`Also the accepted (${accepted.length})`}
            checked={showsAccepted}
            onChange={(event) => put({ accepted: event.currentTarget.checked ? 'yes' : null })}
          />
        ) : null}
        {policy ? (
          <span className="chip">
            around {named ? `“${named}”` : 'one policy'}{' '}
            <button
              type="button"
              className="linkish"
              aria-label="Around all policies"
              onClick={() => put({ policy: null })}
            >
              ×
            </button>
          </span>
        ) : null}
      </Group>
      {items.length === 0 ? (
        <Empty
          title={
            policy ? 'Nothing at the sources gives more than this policy' : 'No right gives more than the policies do'
          }
        >
          <p>
            {policy
              ? 'As far as rights were read, nobody reads at a source what it keeps. '
              : 'Of the sources whose rights were read, nobody reads there what the policies keep. '}
            Read last:{' '}
            {data.sources.map(({ id, name, readAt }, index) => (
              <span key={id}>
                {index > 0 ? ', ' : ''}
                {name} <When at={readAt} />
              </span>
            ))}
            .
          </p>
        </Empty>
      ) : (
        <Listing heads={['Right', 'Source', 'Who reads by it', 'Opens', 'Against', 'Used']}>
          {items.map((item) => (
            <tr key={keyOfBypass(item)}>
              <td>
                <button type="button" className="linkish" onClick={() => put({ right: keyOfBypass(item) })}>
                  <RightWords right={item} />
                </button>
                <Width item={item} />
              </td>
              <td>{item.source}</td>
              <td>
                <Who logins={item.logins} />
              </td>
              <td>
                {plural(item.columns, 'column')} of {plural(item.tables, 'table')}
                <div className="small">
                  <Level level={item.level} />
                </div>
              </td>
              <td>
                {item.policies.length > 0 ? (
                  <span className="attention">{item.policies.map(({ name }) => name).join(', ')}</span>
                ) : (
                  <span className="quiet">no policy allows it</span>
                )}
              </td>
              <td className="oneline">
                {item.used ? plural(item.used.times, 'time') : <span className="quiet">not seen</span>}
              </td>
            </tr>
          ))}
        </Listing>
      )}
    </div>
  );
}

/** How wide a right is, and whether it was accepted. */
function Width({ item }: { item: BypassAnswer }) {
  const told = [
    ...(item.how === 'grant' && item.whole ? [`all of ${item.schema}`] : []),
    ...(item.later ? ['also tables made later'] : []),
    ...(item.accepted
      ? [item.accepted.more > 0 ? `opens ${plural(item.accepted.more, 'column')} more than was accepted` : 'accepted']
      : []),
  ];
  return told.length === 0 ? null : <div className="quiet small">{told.join(' · ')}</div>;
}

const SHOWN = 3;

/** Who reads by a right: people where that was said, else the logins. */
function Who({ logins }: { logins: BypassAnswer['logins'] }) {
  const told = logins.map(({ chain, people, program }) =>
    people.length > 0
      ? `${people.map(({ name }) => name).join(', ')} (${chainInWords(chain)})`
      : program
        ? `${chainInWords(chain)}: a program`
        : chainInWords(chain),
  );
  return (
    <>
      {told.slice(0, SHOWN).map((one) => (
        <div key={one}>{one}</div>
      ))}
      {told.length > SHOWN ? <div className="quiet small">and {told.length - SHOWN} more</div> : null}
    </>
  );
}
