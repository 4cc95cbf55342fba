import {
  addressLine,
  KINDS,
  type SourceAnswer,
  type SourceBody,
  type SourceChange,
  type SourceKind,
} from '@idrel/contract/sources';
import type { ConnectorInput } from '@idrel/readers/connectors';
import type { FinderClient } from '../catalog/index.ts';
import { change, create, type Kept, remove } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Config } from '../platform/config.ts';
import type { Db } from '../platform/database.ts';
import { conflict, forbidden, invalid, notFound } from '../platform/problems.ts';
import { decrypt } from '../platform/secrets.ts';
import { SOURCE, type SourceRow } from './models.ts';
import { checkReach } from './reach.ts';

const FACTS = `s.id, s.name, s.kind, s.address, s.domain_id as "domainId", d.name as domain, s.credential_id as "credentialId", c.name as credential, s.agent_group as "agentGroup", s.description, s.version,
         s.domain_id = any($1::uuid[]) as "mayScan"`;
const FROM = 'from source s join domain d on d.id = s.domain_id left join credential c on c.id = s.credential_id';
const SELECT = `
  select
    ${FACTS},
    (
      select json_build_object('id', r.id, 'state', r.state, 'at', coalesce(r.ended_at, r.asked_at))
      from scan_run r
      where r.source_id = s.id
      order by r.asked_at desc
      limit 1
    ) as "lastRun",
    (select min(p.next_at) from scan_plan p where p.source_id = s.id and p.enabled) as "nextScan" ${FROM}`;

type Shown = Omit<SourceAnswer, 'kindLabel' | 'addressLine' | 'credentialKind' | 'separator' | 'isRead'>;
type Uncounted = Omit<Shown, 'assets'>;
/** A source without what has to be counted. */
export type SourceFacts = Omit<SourceAnswer, 'assets' | 'lastRun' | 'nextScan'>;
const toAnswer = <R extends Pick<Shown, 'kind' | 'address'>>(row: R) => ({
  ...row,
  kindLabel: KINDS[row.kind].label,
  addressLine: addressLine(row.address),
  credentialKind: KINDS[row.kind].credential,
  separator: KINDS[row.kind].separator,
  isRead: !KINDS[row.kind].told,
});

/** How many assets there are now of each source. */
async function counted<R extends { id: string }>(
  finder: FinderClient,
  rows: readonly R[],
): Promise<(R & { assets: number })[]> {
  const held = await finder.bySource();
  return rows.map((row) => ({
    ...row,
    assets: held.reduce((sum, { sourceId, here }) => (sourceId === row.id ? sum + here : sum), 0),
  }));
}

export async function listSources(db: Db, finder: FinderClient, who: Who): Promise<SourceAnswer[]> {
  const rows = await db.rows<Uncounted>(`${SELECT} where s.domain_id = any($2::uuid[]) order by s.name`, [
    who.domainsAs('source administrator'),
    who.domainsAs('reader'),
  ]);
  return (await counted(finder, rows)).map(toAnswer);
}

export async function getSource(db: Db, finder: FinderClient, who: Who, id: string): Promise<SourceAnswer> {
  const source = await db.one<Uncounted>(`${SELECT} where s.id = $3 and s.domain_id = any($2::uuid[])`, [
    who.domainsAs('source administrator'),
    who.domainsAs('reader'),
    id,
  ]);
  if (!source) throw notFound('The source');
  const [whole] = await counted(finder, [source]);
  return toAnswer(whole as Shown);
}

/** The same for who works with it: nothing of it is counted. */
export async function sourceFacts(db: Db, who: Who, id: string): Promise<SourceFacts> {
  const [source] = await db.often<Omit<Shown, 'assets' | 'lastRun' | 'nextScan'>>(
    `select ${FACTS} ${FROM} where s.id = $3 and s.domain_id = any($2::uuid[])`,
    [who.domainsAs('source administrator'), who.domainsAs('reader'), id],
  );
  if (!source) throw notFound('The source');
  return toAnswer(source);
}

/**
 * The same for who asks for values of it: also for who sees only something of it, by a policy, or since it was moved into a domain that they read.
 * @returns with the source by what they see it, where that is not all of it
 */
export async function askedSource(
  db: Db,
  who: Who,
  id: string,
): Promise<{ readonly source: SourceFacts; readonly seen?: readonly string[] }> {
  const seen = who.domainsAs('reader');
  const [row] = await db.often<Omit<Shown, 'assets' | 'lastRun' | 'nextScan'> & { whole: boolean }>(
    `
      select ${FACTS}, s.domain_id = any($2::uuid[]) as whole ${FROM}
      where s.id = $3
        and (
          s.domain_id = any($2::uuid[])
          or exists (select from asset a where a.source_id = s.id and a.domain_set = any($2::uuid[]) and a.gone_at is null)
          or exists (select from asset a where a.source_id = s.id and a.opened_id = any($4::uuid[]) and a.gone_at is null))`,
    [who.domainsAs('source administrator'), seen, id, who.openedSights()],
  );
  if (!row) throw notFound('The source');
  const { whole, ...source } = row;
  return { source: toAnswer(source), ...(whole ? {} : { seen }) };
}

/** An address as its kind has it, of a place that this machine may reach. */
async function checkAddress(
  config: Config,
  kind: SourceKind,
  address: Record<string, unknown>,
  agentGroup: unknown,
): Promise<SourceAnswer['address']> {
  const { error, value } = KINDS[kind].address.validate(address, { abortEarly: false });
  if (error)
    throw invalid(
      `The address does not fit: ${error.message}.`,
      'Correct the named fields.',
      error.details.map((detail) => ({ field: `address.${detail.path.join('.')}`, message: detail.message })),
    );
  return checkReach(config, kind, value as SourceAnswer['address'], agentGroup);
}

/** A credential carries a secret into a source: only who may administer sources somewhere may tie one to a source. */
export async function checkCredential(db: Db, who: Who, kind: SourceKind, id: unknown): Promise<void> {
  if (!id) return;
  who.mustAnywhere('source administrator');
  const found = await db.one<{ kind: string; known: boolean }>(
    `
      select
        kind,
        created_by is not distinct from $2
          or exists (select 1 from source s where s.credential_id = c.id and s.domain_id = any($3::uuid[])) as known
      from credential c
      where id = $1`,
    [id, who.id, who.domainsAs('source administrator')],
  );
  if (!found) throw notFound('The credential');
  // Whoever ties a secret to a source says where it is sent, or which agent gets it: one's own, or one of sources that one administers already.
  if (!found.known && !who.isEverywhere('source administrator'))
    throw forbidden('source administrator in the domain of a source that uses the credential');
  const needed = KINDS[kind].credential;
  if (needed !== found.kind)
    throw invalid(
      needed === 'none'
        ? `A source of the kind ${KINDS[kind].label} needs no credential.`
        : `A source of the kind ${KINDS[kind].label} needs a credential that holds a ${needed}; this one holds a ${found.kind}.`,
      'Choose another credential, or none.',
      [{ field: 'credentialId', message: 'holds something else' }],
    );
}

const SOURCES: Kept<SourceRow, SourceFacts> = {
  thing: 'source',
  model: SOURCE,
  read: sourceFacts,
  told: (_db, { name, kind, description, domainId, credentialId, agentGroup, address }) => ({
    name,
    kind,
    description,
    domainId,
    credentialId,
    agentGroup,
    address,
  }),
  subject: (_db, { domainId }) => ({ domainId }),
  may: (_db, who, { domainId }) => who.must('source administrator', domainId),
};

export async function registerSource(
  db: Db,
  tx: Db,
  finder: FinderClient,
  config: Config,
  who: Who,
  body: SourceBody,
): Promise<SourceAnswer> {
  who.must('source administrator', body.domainId);
  await checkCredential(db, who, body.kind, body.credentialId);
  const address = await checkAddress(config, body.kind, body.address, body.agentGroup);
  const values = { ...body, description: body.description ?? '', address, createdBy: who.id };
  const { id } = await create(tx, who, SOURCES, values, { action: 'registered' });
  return getSource(tx, finder, who, id);
}

export async function changeSource(
  tx: Db,
  finder: FinderClient,
  config: Config,
  who: Who,
  id: string,
  version: number,
  body: SourceChange,
): Promise<SourceAnswer> {
  const { before, after } = await change(tx, who, SOURCES, id, {
    version,
    async values(now) {
      await checkCredential(tx, who, now.kind, body.credentialId);
      const agentGroup = body.agentGroup === undefined ? now.agentGroup : body.agentGroup;
      // Also when nothing of the address changes: what was an agent's folder may lie outside of those that this machine may read.
      const anew = body.address !== undefined || now.agentGroup !== agentGroup;
      const address = anew
        ? await checkAddress(config, now.kind, body.address ?? now.address, agentGroup)
        : now.address;
      return { ...body, agentGroup, address };
    },
    action: 'changed',
  });
  // What lies in a domain of its own stays there, with what it holds.
  if (after.domainId !== before.domainId)
    await tx.run('select settle_domains(array(select id from asset where source_id = $1 and parent_id is null))', [id]);
  return getSource(tx, finder, who, id);
}

export async function removeSource(tx: Db, who: Who, id: string, expected: number): Promise<void> {
  const kept: typeof SOURCES = { ...SOURCES, told: (_db, { name, kind }) => ({ name, kind, assets: expected }) };
  await remove(tx, who, kept, id, {
    async unless() {
      if (await tx.one('select from enforcement where source_id = $1 and made_at is not null', [id]))
        throw conflict(
          'still-used',
          'The source holds policies itself: what Idrel made there would stay behind.',
          'Take it back first, under Access, At the sources.',
        );
      const all = await tx.one<{ n: number }>('select count(*)::int as n from asset where source_id = $1', [id]);
      if ((all?.n ?? 0) === expected) return;
      throw conflict(
        'count-differs',
        `${all?.n ?? 0} assets would go with the source, not ${expected}.`,
        'Look again at what would be removed.',
      );
    },
  });
}

/**
 * What a connector needs to reach a source: its address, and the secret in the clear (it never leaves the server's memory).
 * @param credentialId another credential than that of the source
 */
export async function connectorInput(
  db: Db,
  config: Config,
  sourceId: string,
  credentialId: string | null = null,
): Promise<ConnectorInput & { kind: SourceKind }> {
  const [row] = await db.often<{
    name: string;
    kind: SourceKind;
    address: SourceAnswer['address'];
    agentGroup: string | null;
    username: string | null;
    secret: Buffer | null;
  }>(
    `
      select s.name, s.kind, s.address, s.agent_group as "agentGroup", c.username, c.secret
      from source s
      left join credential c on c.id = coalesce($2, s.credential_id)
      where s.id = $1`,
    [sourceId, credentialId],
  );
  if (!row) throw notFound('The source');
  const address = await checkReach(config, row.kind, row.address, row.agentGroup);
  return {
    name: row.name,
    kind: row.kind,
    address,
    secret: row.secret ? { username: row.username ?? '', password: opened(config, row.secret) } : null,
  };
}

function opened(config: Config, secret: Buffer): string {
  try {
    return decrypt(config.key, secret);
  } catch {
    throw conflict(
      'secret-unreadable',
      'The secret of the credential cannot be opened with the key of this server.',
      'Enter the secret anew under Sources, Credentials; or start the server with the key that it was stored under.',
    );
  }
}
