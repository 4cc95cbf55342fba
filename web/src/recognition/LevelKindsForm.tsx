import type { LevelKindsAnswer } from '@idrel/contract/recognition';
import { LEVEL_KINDS } from '@idrel/core/recognition/classes';
import { MultiSelect } from '@mantine/core';
import { sayDone } from '../app/say.ts';
import { Frame } from '../forms/Frame.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { LevelEffect } from './LevelEffect.tsx';
import { useSaveLevelKindsMutation } from './levelsApi.ts';

/** To which kinds levels rise. */
type LevelKind = LevelKindsAnswer['kinds'][number];
export function KindsForm({ now, may }: { now: LevelKindsAnswer; may: boolean }) {
  const [save] = useSaveLevelKindsMutation();
  const kindsOf = ({ kinds }: Pick<LevelKindsAnswer, 'kinds'>) => ({ kinds: [...kinds] });
  const edit = useEditForm<{ kinds: LevelKind[] }, LevelKindsAnswer>({
    key: 'level-kinds',
    now: { version: now.version, values: kindsOf(now) },
    fresh: { kinds: [] },
    valuesOf: kindsOf,
    send: ({ kinds }, version) => save({ version, kinds }).unwrap(),
    done: (saved) => {
      const { kinds } = now;
      sayDone('The kinds are saved; levels follow.', () => save({ version: saved.version, kinds }));
    },
  });
  const { form, values: draft, differs } = edit;
  return (
    <Frame
      title="Kinds that have a level"
      may={may}
      edit={edit}
      fields={{ kinds: 'Levels rise to' }}
      words="Save kinds"
      below={differs && may ? <LevelEffect change={{ kinds: draft.kinds }} /> : null}
    >
      <MultiSelect
        label="Levels rise to"
        description="Columns always have theirs. A level that somebody set by hand stays, whatever the kind."
        {...form.getInputProps('kinds')}
        data={[...LEVEL_KINDS]}
      />
    </Frame>
  );
}
