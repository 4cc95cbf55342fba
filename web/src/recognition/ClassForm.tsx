import type { ClassAnswer } from '@idrel/contract/recognition';
import { Button, Select, TagsInput, Textarea, TextInput } from '@mantine/core';
import { useState } from 'react';
import { problemOf } from '../app/api.ts';
import { useDraft } from '../app/draft.ts';
import { sayDone } from '../app/say.ts';
import { useLevelChoices } from '../marks/levelNames.ts';
import { ProblemNotice } from '../marks/states.tsx';
import { LevelEffect } from './LevelEffect.tsx';
import { useClassesQuery, useSaveClassMutation } from './ownApi.ts';

const THEMES = ['contact', 'identity', 'demographic', 'finance', 'health', 'credentials and secrets', 'network and device', 'location', 'vehicle and vessel', 'free text', 'own'];

/** What a data class means, and how sensitive it is. */
export function ClassForm({ about, done }: { about?: ClassAnswer; done: (saved?: ClassAnswer) => void }) {
  const classes = useClassesQuery();
  const levels = useLevelChoices();
  const { draft, put, differs, settle } = useDraft(`class:${about?.key ?? 'new'}`, {
    label: about?.label ?? '',
    theme: about?.theme ?? 'own',
    level: about?.level ?? 2,
    meaning: about?.meaning ?? '',
    legalBasis: about?.legalBasis ?? '',
    synonyms: [...(about?.synonyms ?? [])],
    parentKey: about?.parentKey ?? null,
  });
  const [save, saving] = useSaveClassMutation();
  const [problem, setProblem] = useState<ReturnType<typeof problemOf> | null>(null);
  const keep = async (version = about?.version ?? 0) => {
    try {
      const saved = await save({ key: about?.key ?? null, version, body: draft }).unwrap();
      settle();
      sayDone(`“${saved.label}” is saved.`);
      done(saved);
    } catch (error) {
      setProblem(problemOf(error));
    }
  };
  return (
    <div className="stack" role="group" aria-label="Data class">
      <TextInput label="Name" required value={draft.label} onChange={(event) => put({ label: event.currentTarget.value })} />
      <div className="fields">
        <Select label="Theme" value={draft.theme} allowDeselect={false} data={THEMES} onChange={(theme) => put({ theme: theme ?? 'own' })} />
        <Select label="Level that follows" value={String(draft.level)} allowDeselect={false} data={levels} onChange={(level) => put({ level: Number(level) })} />
        <Select
          label="Lies below"
          clearable
          searchable
          value={draft.parentKey}
          data={(classes.data ?? []).filter((entry) => entry.key !== about?.key && !entry.retired).map((entry) => ({ value: entry.key, label: entry.label }))}
          onChange={(parentKey) => put({ parentKey })}
        />
      </div>
      <Textarea label="What it means" autosize minRows={2} value={draft.meaning} onChange={(event) => put({ meaning: event.currentTarget.value })} />
      <Textarea
        label="Legal basis"
        description="Articles of law that speak of it, in your words"
        autosize
        minRows={1}
        value={draft.legalBasis}
        onChange={(event) => put({ legalBasis: event.currentTarget.value })}
      />
      <TagsInput label="Also called" value={draft.synonyms} onChange={(synonyms) => put({ synonyms })} />
      <ProblemNotice problem={problem} over={(version) => void keep(version)} />
      {about && draft.level !== about.level ? <LevelEffect change={{ classKey: about.key, level: draft.level }} /> : null}
      <div className="row">
        <Button onClick={() => void keep()} loading={saving.isLoading} disabled={!draft.label.trim() || !differs}>
          Save class
        </Button>
        <Button variant="subtle" onClick={() => done()}>
          Cancel
        </Button>
      </div>
    </div>
  );
}
