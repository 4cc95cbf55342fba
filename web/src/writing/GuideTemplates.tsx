import type { TemplateAnswer } from '@idrel/contract/writing';
import { sayDone } from '../app/say.ts';
import { ByKind } from '../forms/ByKind.tsx';
import { Frame, useIsAdministrator } from '../forms/Frame.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { History, useJournalQuery } from '../journal/index.ts';
import { Empty } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import { Editor } from './Editor.tsx';
import { Written } from './Written.tsx';
import { useChangeGuideTemplateMutation, useGuideTemplatesQuery } from './writingApi.ts';

/** What guides of assets of each kind begin with. */
export function Component() {
  const found = useGuideTemplatesQuery();
  const may = useIsAdministrator();
  useCrumbs({ text: 'Settings', to: '/settings' }, { text: 'Guides', to: '/settings/guides' });
  return (
    <ByKind
      title="Guides"
      found={found}
      told={({ text }) => (text.trim() === '' ? 'empty' : '')}
      one={(template) => <TemplateForm key={template.kind} template={template} may={may} />}
      none={
        <Empty title="Choose a kind of asset">
          <p>
            Who begins a guide finds in it what is written here: the questions that every guide of that kind answers.
          </p>
        </Empty>
      }
    />
  );
}

const textOf = ({ text }: TemplateAnswer) => ({ text });

function TemplateForm({ template, may }: { template: TemplateAnswer; may: boolean }) {
  const [change] = useChangeGuideTemplateMutation();
  const history = useJournalQuery(template.kind);
  const edit = useEditForm<{ text: string }, TemplateAnswer>({
    key: `template:${template.kind}`,
    now: { version: template.version, values: textOf(template) },
    fresh: { text: '' },
    valuesOf: textOf,
    send: ({ text }, version) => change({ kind: template.kind, version, text }).unwrap(),
    done: ({ kind, version }, { text }) =>
      sayDone(`What guides of a ${kind} begin with is saved.`, () => change({ kind, version, text })),
  });
  return (
    <Frame
      title={`What the guide of a ${template.kind} begins with`}
      may={may}
      edit={edit}
      fields={{ text: 'The template' }}
      words="Save template"
      below={
        <>
          <h3 className="under">History</h3>
          <History entries={history.data ?? []} />
        </>
      }
    >
      {may ? (
        <Editor
          label="Template"
          value={edit.values.text}
          onChange={(text) => edit.put({ text })}
          onSave={() => void (edit.differs && edit.save())}
          onLeave={() => undefined}
        />
      ) : (
        <>
          <Written text={template.text || '*Nothing.*'} />
          <p className="quiet small">Administrators of everything change it.</p>
        </>
      )}
    </Frame>
  );
}
