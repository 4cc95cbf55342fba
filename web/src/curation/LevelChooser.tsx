import type { AssetAnswer } from '@idrel/contract/catalog';
import type { AssetChange } from '@idrel/contract/curation';
import { Button, Select, TextInput } from '@mantine/core';
import { useState } from 'react';
import { Level } from '../marks/index.tsx';
import { useLevelChoices, useLevelWord } from '../marks/levelNames.ts';
import { useLevelReasonsQuery } from '../recognition/ownApi.ts';

const AS_FOUND = 'found';

/** What a choice would do, before it is saved: up freely; down with a reason, and by a steward. */
export function judgeLevel(chosen: string, found: number | null, reason: string, now: number | null = found, mayLower = true): { level: number | null; lacks: string | null } {
  const level = chosen === AS_FOUND ? null : Number(chosen);
  const lower = (level ?? found ?? 0) < (now ?? 0);
  if (lower && !mayLower) return { level, lacks: 'It is lower than it is now: only a steward of the domain may lower it.' };
  return { level, lacks: level !== null && (lower || level < (found ?? 0)) && reason.trim() === '' ? 'It is lower than it is now, or than what follows from the data classes: say why.' : null };
}

/** The sensitivity level: found by rule, or set by hand with a reason. */
export function LevelChooser({ asset, save }: { asset: AssetAnswer; save: (change: AssetChange, undo?: AssetChange) => Promise<boolean> }) {
  const [open, setOpen] = useState(false);
  const [chosen, setChosen] = useState(asset.levelSet === null ? AS_FOUND : String(asset.levelSet));
  const [reason, setReason] = useState(asset.levelReason ?? '');
  const levelWord = useLevelWord();
  const levels = useLevelChoices();
  const reasons = useLevelReasonsQuery(asset.id, { skip: asset.levelSet !== null || asset.levelFound === null });
  const why =
    asset.levelSet !== null
      ? `set by hand${asset.levelReason ? `: ${asset.levelReason}` : ''}`
      : asset.levelFound !== null
        ? reasons.data && reasons.data.length > 0
          ? reasons.data.join('; ')
          : 'follows from its data classes'
        : null;
  const { level, lacks } = judgeLevel(chosen, asset.levelFound, reason, asset.level, asset.mayCertify);
  const found = `as found: ${levelWord(asset.levelFound)}`;
  const keep = async () => {
    const undo = { level: asset.levelSet, levelReason: asset.levelReason };
    if (await save({ level, levelReason: level === null ? null : reason.trim() || null }, undo)) setOpen(false);
  };
  if (!open)
    return (
      <span>
        {asset.mayEdit ? (
          <button type="button" className="editable" aria-label="Edit Level" onClick={() => setOpen(true)}>
            <Level level={asset.level} />
          </button>
        ) : (
          <Level level={asset.level} />
        )}
        {why ? <div className="small quiet">{why}</div> : null}
      </span>
    );
  return (
    <form
      className="stack"
      onSubmit={(event) => {
        event.preventDefault();
        if (!lacks) void keep();
      }}
      onKeyDown={(event) => {
        if (event.key === 'Escape') setOpen(false);
      }}
    >
      <Select aria-label="Level" allowDeselect={false} data={[{ value: AS_FOUND, label: found }, ...levels]} value={chosen} onChange={(value) => value && setChosen(value)} />
      {chosen === AS_FOUND ? null : <TextInput aria-label="Reason" placeholder="Why" value={reason} onChange={(event) => setReason(event.currentTarget.value)} />}
      {lacks ? <div className="small quiet">{lacks}</div> : null}
      <div className="row">
        <Button type="submit" size="compact-sm" disabled={lacks !== null}>
          Save
        </Button>
        <Button variant="subtle" size="compact-sm" onClick={() => setOpen(false)}>
          Leave
        </Button>
      </div>
    </form>
  );
}
