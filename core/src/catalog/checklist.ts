/** What can be asked of an asset before it is trusted. */
export const CHECK_ITEMS = {
  described: 'It is described',
  owned: 'Somebody answers for it',
  'columns described': 'Its columns are described',
  'findings settled': 'Its findings are settled',
  'lineage upstream': 'It is known what it is made from',
  'lineage downstream': 'It is known what is made from it',
  fresh: 'Its source was scanned lately',
} as const;
export type CheckItem = keyof typeof CHECK_ITEMS;

/** What is asked of assets of one kind. */
export interface Checklist {
  readonly described: boolean;
  readonly owned: boolean;
  /** The share of its columns that must be described, above 0 to 1; null: none. */
  readonly columnsDescribed: number | null;
  readonly findingsSettled: boolean;
  readonly lineageUp: boolean;
  readonly lineageDown: boolean;
  /** In days; null: whenever. */
  readonly freshDays: number | null;
}
export const NO_CHECKLIST: Checklist = {
  described: false,
  owned: false,
  columnsDescribed: null,
  findingsSettled: false,
  lineageUp: false,
  lineageDown: false,
  freshDays: null,
};

/** What is known of an asset that a checklist asks about. */
export interface CheckFacts {
  readonly described: boolean;
  readonly owners: number;
  readonly columns: number;
  readonly columnsDescribed: number;
  readonly findings: number;
  readonly upstream: boolean;
  readonly downstream: boolean;
  /** Days since its source was scanned; null where it never was. */
  readonly scannedDays: number | null;
}

/** One thing that is asked, whether it is so, and how far it is. */
export interface Checked {
  readonly item: CheckItem;
  readonly met: boolean;
  readonly told: string;
}

/** What a checklist says of an asset. */
export function check(asked: Checklist, facts: CheckFacts): Checked[] {
  const { columnsDescribed: share, freshDays: days } = asked;
  const wanted = share === null ? 0 : Math.ceil(share * facts.columns - 1e-9);
  const checked: (Checked | null)[] = [
    asked.described
      ? { item: 'described', met: facts.described, told: facts.described ? '' : 'nobody wrote what it means' }
      : null,
    asked.owned ? { item: 'owned', met: facts.owners > 0, told: facts.owners > 0 ? '' : 'it has no owner' } : null,
    share === null
      ? null
      : {
          item: 'columns described',
          met: facts.columnsDescribed >= wanted,
          told: `${facts.columnsDescribed} of ${facts.columns}${share < 1 ? `, ${wanted} are needed` : ''}`,
        },
    asked.findingsSettled
      ? {
          item: 'findings settled',
          met: facts.findings === 0,
          told: facts.findings === 0 ? '' : `${facts.findings} wait`,
        }
      : null,
    asked.lineageUp
      ? { item: 'lineage upstream', met: facts.upstream, told: facts.upstream ? '' : 'nothing upstream is known' }
      : null,
    asked.lineageDown
      ? {
          item: 'lineage downstream',
          met: facts.downstream,
          told: facts.downstream ? '' : 'nothing downstream is known',
        }
      : null,
    days === null
      ? null
      : {
          item: 'fresh',
          met: facts.scannedDays !== null && facts.scannedDays <= days,
          told:
            facts.scannedDays === null
              ? 'it never was'
              : `${facts.scannedDays === 0 ? 'today' : facts.scannedDays === 1 ? 'a day ago' : `${facts.scannedDays} days ago`}; at most ${days} are asked`,
        },
  ];
  return checked.filter((entry) => entry !== null);
}
