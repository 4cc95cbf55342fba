import type { ClassAnswer } from '@idrel/contract/recognition';
import { Button, Group, Select, Stack, TagsInput, Textarea, TextInput } from '@mantine/core';
import { sayDone } from '../app/say.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { Level } from '../marks/index.tsx';
import { useLevelChoices } from '../marks/levelNames.ts';
import { useClassesQuery, useSaveClassMutation, useTravelPreviewQuery } from './classesApi.ts';
import { LevelEffect } from './LevelEffect.tsx';
import { TravelEffect } from './TravelEffect.tsx';
import { TravelKinds } from './TravelKinds.tsx';

const THEMES = [
  'contact',
  'identity',
  'demographic',
  'finance',
  'health',
  'credentials and secrets',
  'network and device',
  'location',
  'vehicle and vessel',
  'free text',
  'own',
];

interface ClassFields {
  label: string;
  theme: string;
  level: number;
  meaning: string;
  legalBasis: string;
  synonyms: string[];
  parentKey: string | null;
  travels: ClassAnswer['travels'][number][];
}
const fieldsOf = ({
  label,
  theme,
  level,
  meaning,
  legalBasis,
  synonyms,
  parentKey,
  travels,
}: ClassAnswer): ClassFields => ({
  label,
  theme,
  level,
  meaning,
  legalBasis,
  synonyms: [...synonyms],
  parentKey: parentKey ?? null,
  travels: [...travels],
});
const NO_CLASS: ClassFields = {
  label: '',
  theme: 'own',
  level: 2,
  meaning: '',
  legalBasis: '',
  synonyms: [],
  parentKey: null,
  travels: ['copied', 'transformed'],
};

/** What a data class means, and how sensitive it is. */
export function ClassForm({ about, done }: { about?: ClassAnswer; done: (saved?: ClassAnswer) => void }) {
  const classes = useClassesQuery();
  const levels = useLevelChoices();
  const [save] = useSaveClassMutation();
  const edit = useEditForm<ClassFields, ClassAnswer>({
    key: `class:${about?.key ?? 'new'}`,
    now: about ? { version: about.version, values: fieldsOf(about) } : null,
    fresh: NO_CLASS,
    valuesOf: fieldsOf,
    send: (body, version) => save({ key: about?.key ?? null, version, body }).unwrap(),
    done: (saved) => {
      sayDone(`“${saved.label}” is saved.`);
      done(saved);
    },
  });
  const { form, values: draft, put } = edit;
  const travelsOtherwise = about && [...draft.travels].sort().join() !== [...about.travels].sort().join();
  const effect = useTravelPreviewQuery({ key: about?.key ?? '', travels: draft.travels }, { skip: !travelsOtherwise });
  return (
    <Stack role="group" aria-label="Data class">
      <TextInput label="Name" required {...form.getInputProps('label')} />
      <div className="fields">
        <Select
          label="Theme"
          value={draft.theme}
          allowDeselect={false}
          data={THEMES}
          onChange={(theme) => put({ theme: theme ?? 'own' })}
        />
        <Select
          label="Level that follows"
          value={String(draft.level)}
          allowDeselect={false}
          data={levels}
          onChange={(level) => put({ level: Number(level) })}
        />
        <Select
          label="Lies below"
          clearable
          searchable
          {...form.getInputProps('parentKey')}
          data={(classes.data ?? [])
            .filter((entry) => entry.key !== about?.key && !entry.retired)
            .map((entry) => ({ value: entry.key, label: entry.label }))}
        />
      </div>
      <Textarea label="What it means" autosize minRows={2} {...form.getInputProps('meaning')} />
      <Textarea
        label="Legal basis"
        description="Articles of law that speak of it, in your words"
        autosize
        minRows={1}
        {...form.getInputProps('legalBasis')}
      />
      <TagsInput label="Also called" {...form.getInputProps('synonyms')} />
      <TravelKinds
        description="What is made of it carries the class as well. A mask ends its way."
        {...form.getInputProps('travels')}
      />
      <FormNotice
        edit={edit}
        words={{
          label: 'Name',
          theme: 'Theme',
          level: ['Level that follows', (level) => <Level level={level as number} />],
          parentKey: ['Lies below', (key) => classes.data?.find((entry) => entry.key === key)?.label],
          meaning: 'What it means',
          legalBasis: 'Legal basis',
          synonyms: 'Also called',
          travels: ['Travels where the value is', (kinds) => (kinds as string[]).join(', ') || 'nowhere'],
        }}
      />
      {about && draft.level !== about.level ? (
        <LevelEffect change={{ classKey: about.key, level: draft.level }} />
      ) : null}
      {travelsOtherwise ? <TravelEffect preview={effect.data} /> : null}
      <Group>
        <Button
          onClick={() => void edit.save()}
          loading={edit.saving}
          disabled={!draft.label.trim() || !edit.differs || edit.clashes.length > 0}
        >
          Save class
        </Button>
        <Button variant="subtle" onClick={() => done()}>
          Cancel
        </Button>
      </Group>
    </Stack>
  );
}
