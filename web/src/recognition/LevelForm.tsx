import type { LevelAnswer, LevelText } from '@idrel/contract/recognition';
import { where } from '@idrel/core/catalog';
import { Stack, Textarea, TextInput } from '@mantine/core';
import { Link } from 'react-router';
import { sayDone } from '../app/say.ts';
import { opens } from '../catalog/index.ts';
import { Frame } from '../forms/Frame.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { useSaveLevelMutation } from './levelsApi.ts';

/** What a level is called and means. */
export function LevelForm({ level, may }: { level: LevelAnswer; may: boolean }) {
  const [save] = useSaveLevelMutation();
  const said = ({ name, meaning, advice }: LevelText): LevelText => ({ name, meaning, advice });
  const edit = useEditForm<LevelText, LevelAnswer>({
    key: `level:${level.level}`,
    now: { version: level.version, values: said(level) },
    fresh: said(level),
    valuesOf: said,
    send: (body, version) => save({ level: level.level, version, body }).unwrap(),
    done: (saved) => {
      const body = said(level);
      sayDone(`The level is “${saved.name}”.`, () => save({ level: level.level, version: saved.version, body }));
    },
  });
  const { form, values: draft } = edit;
  if (!may)
    return (
      <Stack maw={640}>
        <h2>{level.name}</h2>
        <p>{level.meaning || <span className="quiet">What it means is not written yet.</span>}</p>
        <h3>How to handle what has it</h3>
        <p className="written">{level.advice || <span className="quiet">No advice is written yet.</span>}</p>
        <p>
          <Link to={opens(where('level', level.key))}>Assets that have it</Link>
        </p>
        <p className="small quiet">Administrators say what levels are called and mean.</p>
      </Stack>
    );
  return (
    <Frame
      title={level.name}
      may={may}
      edit={edit}
      fields={{ name: 'Name', meaning: 'What it means', advice: 'How to handle what has it' }}
      ready={draft.name.trim() !== ''}
      words="Save level"
    >
      <TextInput
        label="Name"
        description={
          <>
            Searches and rules know it as <span className="mono">level:{level.key}</span>, whatever it is called
          </>
        }
        required
        {...form.getInputProps('name')}
      />
      <Textarea label="What it means" autosize minRows={2} {...form.getInputProps('meaning')} />
      <Textarea label="How to handle what has it" autosize minRows={3} {...form.getInputProps('advice')} />
    </Frame>
  );
}
