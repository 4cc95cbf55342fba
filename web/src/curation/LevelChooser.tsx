import type { AssetAnswer } from '@idrel/contract/catalog';
import { Button, Group, Select, Stack, TextInput } from '@mantine/core';
import { useState } from 'react';
import { FormNotice } from '../forms/FormNotice.tsx';
import { Editable } from '../marks/Editable.tsx';
import { Level } from '../marks/index.tsx';
import { useLevelChoices, useLevelWord } from '../marks/levelNames.ts';
import { useLevelReasonsQuery } from '../recognition/index.ts';
import { useAssetForm } from './useAssetForm.ts';

const AS_FOUND = 'found';

/** What a choice would do, before it is saved: up freely; down with a reason, and by a steward. */
export function judgeLevel(
  chosen: string,
  found: number | null,
  reason: string,
  now: number | null = found,
  mayLower = true,
): { level: number | null; lacks: string | null } {
  const level = chosen === AS_FOUND ? null : Number(chosen);
  const lower = (level ?? found ?? 0) < (now ?? 0);
  if (lower && !mayLower)
    return { level, lacks: 'It is lower than it is now: only a steward of the domain may lower it.' };
  return {
    level,
    lacks:
      level !== null && (lower || level < (found ?? 0)) && reason.trim() === ''
        ? 'It is lower than it is now, or than what follows from the data classes: say why.'
        : null,
  };
}

const factsOf = (asset: AssetAnswer) => ({ level: asset.levelSet, levelReason: asset.levelReason });

/** The sensitivity level: found by rule, or set by hand with a reason. */
export function LevelChooser({ asset }: { asset: AssetAnswer }) {
  const [open, setOpen] = useState(false);
  const edit = useAssetForm(asset, 'level', factsOf, () => setOpen(false));
  const { values, put } = edit;
  const chosen = values.level === null ? AS_FOUND : String(values.level);
  const reason = values.levelReason ?? '';
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
  const { lacks } = judgeLevel(chosen, asset.levelFound, reason, asset.level, asset.mayCertify);
  const found = `as found: ${levelWord(asset.levelFound)}`;
  const close = () => {
    edit.discard();
    setOpen(false);
  };
  if (!open)
    return (
      <span>
        {asset.mayEdit ? (
          <Editable label="Level" onOpen={() => setOpen(true)}>
            <Level level={asset.level} />
            {edit.differs ? <span className="attention small"> · not saved</span> : null}
          </Editable>
        ) : (
          <Level level={asset.level} />
        )}
        {why ? <div className="small quiet">{why}</div> : null}
      </span>
    );
  return (
    <Stack
      component="form"
      onSubmit={(event) => {
        event.preventDefault();
        if (!edit.differs) close();
        else if (!lacks && edit.clashes.length === 0) void edit.save();
      }}
      onKeyDown={(event) => {
        if (event.key === 'Escape') close();
      }}
    >
      <Select
        aria-label="Level"
        allowDeselect={false}
        data={[{ value: AS_FOUND, label: found }, ...levels]}
        value={chosen}
        error={edit.form.errors.level}
        onChange={(value) => value && put({ level: value === AS_FOUND ? null : Number(value) })}
      />
      {chosen === AS_FOUND ? null : (
        <TextInput
          aria-label="Reason"
          placeholder="Why"
          value={reason}
          error={edit.form.errors.levelReason}
          onChange={(event) => put({ levelReason: event.currentTarget.value || null })}
        />
      )}
      <FormNotice
        edit={edit}
        words={{
          level: ['Level', (level) => <Level level={(level as number | null) ?? asset.levelFound} />],
          levelReason: 'Reason',
        }}
      />
      {lacks ? <div className="small quiet">{lacks}</div> : null}
      <Group>
        <Button
          type="submit"
          size="compact-sm"
          disabled={lacks !== null || edit.clashes.length > 0}
          loading={edit.saving}
        >
          Save
        </Button>
        <Button variant="subtle" size="compact-sm" onClick={close}>
          Leave
        </Button>
      </Group>
    </Stack>
  );
}
