import type { GovernedBy, KeptBy } from '@idrel/contract/coverage';
import { Button, Group, SegmentedControl, Select } from '@mantine/core';
import { Link } from 'react-router';
import { useAddress } from '../app/address.ts';
import { plural } from '../marks/index.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useDomainChoices } from '../people/index.ts';
import { useCrumbs } from '../shell/crumbs.tsx';
import { useCoverageQuery, useLevelReportQuery } from './api.ts';
import { Governed } from './Governed.tsx';
import { LevelTable } from './LevelTable.tsx';
import { OverTime } from './OverTime.tsx';
import { Room } from './Room.tsx';
import { useRowNames } from './rowNames.ts';
import { Targets } from './Targets.tsx';
import { Use } from './Use.tsx';
import { Week } from './Week.tsx';

const WORDS: Readonly<Record<GovernedBy, string>> = {
  domain: 'By domain',
  source: 'By source',
  kind: 'By kind',
  level: 'By level',
  owner: 'By owner',
  priority: 'By priority',
};
const KEPT: readonly KeptBy[] = ['domain', 'source', 'kind', 'level', 'owner'];
/** The parts of coverage: what they tell, by what their rows can be, and whether they can be narrowed to a domain. */
const PARTS = {
  governed: { label: 'How governed', tells: 'how they are governed now', by: [...KEPT, 'priority'], narrows: true },
  time: { label: 'Over time', tells: 'how that came to be', by: KEPT, narrows: true },
  targets: { label: 'Targets', tells: 'what domains mean to reach', by: [], narrows: false },
  room: { label: 'Room', tells: 'how much room they take, and what that costs', by: KEPT, narrows: true },
  use: { label: 'Use', tells: 'what is asked for', by: [], narrows: true },
  levels: { label: 'Levels', tells: 'how sensitive they are', by: ['domain', 'source', 'kind'], narrows: false },
  week: { label: 'My week', tells: 'what you did', by: [], narrows: false },
} as const satisfies Record<
  string,
  { readonly label: string; readonly tells: string; readonly by: readonly GovernedBy[]; readonly narrows: boolean }
>;
type Part = keyof typeof PARTS;

/** How far the catalog is governed: each figure opens the assets behind it. */
export function Component() {
  useCrumbs({ text: 'Coverage' });
  const [params, put] = useAddress();
  const asked = params.get('show') ?? 'governed';
  const part: Part = Object.hasOwn(PARTS, asked) ? (asked as Part) : 'governed';
  const { narrows } = PARTS[part];
  const ways: readonly GovernedBy[] = PARTS[part].by;
  const by = ways.find((one) => one === params.get('by')) ?? 'domain';
  const domain = (narrows && params.get('domain')) || undefined;
  const domains = useDomainChoices();
  return (
    <div className="page">
      <div className="head">
        <h1 className="grow">Coverage</h1>
        {narrows ? (
          <Select
            aria-label="Within a domain"
            placeholder="All domains"
            data={domains}
            value={domain ?? null}
            onChange={(value) => put({ domain: value })}
            clearable
            searchable
            w={220}
          />
        ) : null}
        <Button component={Link} to="/coverage/report" variant="default">
          Report
        </Button>
      </div>
      <Group mb={16} gap={12}>
        <SegmentedControl
          aria-label="What is shown"
          value={part}
          onChange={(value) => put({ show: value === 'governed' ? null : value })}
          data={Object.entries(PARTS).map(([value, { label }]) => ({ value, label }))}
        />
        {ways.length > 0 ? (
          <SegmentedControl
            aria-label="Rows by"
            value={by}
            onChange={(value) => put({ by: value === 'domain' ? null : value })}
            data={ways.map((value) => ({ value, label: WORDS[value] }))}
          />
        ) : null}
      </Group>
      {part === 'governed' || part === 'room' ? (
        <Now by={by} domain={domain} room={part === 'room'} />
      ) : part === 'time' ? (
        <OverTime by={by as KeptBy} domain={domain} />
      ) : part === 'targets' ? (
        <Targets />
      ) : part === 'use' ? (
        <Use domain={domain} />
      ) : part === 'week' ? (
        <Week />
      ) : (
        <Levels by={by as 'domain' | 'source' | 'kind'} />
      )}
    </div>
  );
}

const NOTHING = (
  <Empty title="Nothing to count yet">
    <p>
      Figures stand here once a source was scanned. <Link to="/sources">Open the sources</Link>
    </p>
  </Empty>
);

function Now({ by, domain, room }: { by: GovernedBy; domain: string | undefined; room: boolean }) {
  const { data, error, refetch, isFetching } = useCoverageQuery({ by, domain });
  const nameOf = useRowNames(by);
  if (error && !data) return <Trouble error={error} what="The coverage cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  if (data.all.assets === 0) return NOTHING;
  const named = { ...data, rows: data.rows.map((row) => ({ ...row, name: nameOf(row.name) })) };
  return (
    <div className={isFetching ? 'fading' : undefined}>
      <p className="quiet">
        {room
          ? `How much room what holds rows takes among the ${plural(data.all.assets, 'asset')} that you may see, and what of it nobody asks for.`
          : `How far the ${plural(data.all.assets, 'asset')} that you may see are governed. Each figure opens the assets behind it.`}
      </p>
      {room ? <Room data={named} by={by} domain={domain} /> : <Governed data={named} by={by} />}
    </div>
  );
}

function Levels({ by }: { by: 'domain' | 'source' | 'kind' }) {
  const { data, error, refetch, isFetching } = useLevelReportQuery(by);
  if (error && !data) return <Trouble error={error} what="The levels cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  if (data.all.assets === 0) return NOTHING;
  return (
    <div className={isFetching ? 'fading' : undefined}>
      <p className="quiet">
        How sensitive the {plural(data.all.assets, 'asset')} that you may see are. Each figure opens the assets behind
        it.
      </p>
      <LevelTable data={data} />
    </div>
  );
}
