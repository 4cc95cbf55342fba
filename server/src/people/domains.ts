import type { DomainAnswer } from '@idrel/contract/people';
import { say } from '../journal/index.ts';
import type { Db } from '../platform/database.ts';
import { notFound } from '../platform/problems.ts';
import type { Who } from './who.ts';

export const DOMAIN_FIELDS = 'id, parent_id as "parentId", name, shown_outside as "shownOutside"';

/** Says whether an address of an asset in a domain shows strangers what it leads to. Domains below are asked by themselves. */
export async function showOutside(tx: Db, who: Who, id: string, shown: boolean): Promise<DomainAnswer> {
  const read = async () => {
    const domain = await tx.one<DomainAnswer>(`select ${DOMAIN_FIELDS} from domain where id = $1 for update`, [id]);
    if (!domain) throw notFound('The domain');
    return domain;
  };
  const told = (yes: boolean) => ({ 'shown outside': yes ? 'yes' : 'no' });
  await say<DomainAnswer>(tx, who, {
    action: shown ? 'shown outside' : 'shown outside no more',
    held: read,
    may: () => who.must('administrator', id),
    async write(now) {
      await tx.run('update domain set shown_outside = $2 where id = $1', [id, shown]);
      return [told(now.shownOutside), told(shown)];
    },
    about: ({ name }) => ({ kind: 'domain', id, name, domainId: id }),
  });
  return read();
}
