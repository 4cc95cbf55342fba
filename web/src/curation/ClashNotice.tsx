import { Button } from '@mantine/core';
import type { Clash } from './useEdit.ts';

const WORDS: Record<string, string> = { description: 'Description', standing: 'Standing', ownerIds: 'Owners', stewardIds: 'Stewards', termIds: 'Terms', level: 'Level', levelReason: 'Reason' };

/** Two people edited at once: both versions, and the choice. */
export function ClashNotice({ clash, keepMine, keepTheirs }: { clash: Clash; keepMine: () => void; keepTheirs: () => void }) {
  const { now, wanted } = clash;
  const theirs: Record<string, string> = {
    description: now.description ?? '',
    standing: now.standing,
    ownerIds: now.owners.map((person) => person.name).join(', '),
    stewardIds: now.stewards.map((person) => person.name).join(', '),
    termIds: now.terms.map((term) => term.name).join(', '),
    level: String(now.levelSet ?? ''),
    levelReason: now.levelReason ?? '',
  };
  return (
    <div className="notice stack" role="alert">
      <strong>Somebody else changed this after you opened it. Yours is not saved yet.</strong>
      {Object.entries(wanted).map(([key, value]) => (
        <div key={key}>
          <div className="small quiet">{WORDS[key] ?? key}, as it stands now</div>
          <div>{theirs[key] || 'nothing'}</div>
          <div className="small quiet">yours</div>
          <div>{typeof value === 'string' ? value : Array.isArray(value) ? `${value.length} chosen` : String(value ?? 'nothing')}</div>
        </div>
      ))}
      <div className="row">
        <Button onClick={keepMine}>Save mine over it</Button>
        <Button variant="default" onClick={keepTheirs}>
          Keep theirs
        </Button>
      </div>
    </div>
  );
}
