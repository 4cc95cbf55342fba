import type { DetectorFile, ImportAnswer } from '@idrel/contract/recognition';
import { Button, FileButton, Group } from '@mantine/core';
import { useState } from 'react';
import { problemOf } from '../app/api.ts';
import { sayDone, sayProblem } from '../app/say.ts';
import { count } from '../marks/index.tsx';
import { useImportDetectorsMutation } from './detectorsApi.ts';

/** The organisation's classes and detectors as a file, and from one: what it would change is said first. */
export function Transfer({ may }: { may: boolean }) {
  const [take, taking] = useImportDetectorsMutation();
  const [coming, setComing] = useState<{ file: DetectorFile; told: ImportAnswer } | null>(null);
  const read = async (file: File | null) => {
    if (!file) return;
    try {
      const content = JSON.parse(await file.text()) as DetectorFile;
      setComing({ file: content, told: await take({ file: content, preview: true }).unwrap() });
    } catch (error) {
      sayProblem(
        error instanceof SyntaxError
          ? {
              data: {
                ...problemOf(error),
                detail: `${file.name} is not JSON: ${error.message}.`,
                mend: 'Export detectors to see the form of the file.',
              },
            }
          : error,
        'Nothing was imported',
      );
    }
  };
  const number = (what: 'new' | 'changed' | 'same') =>
    [...(coming?.told.classes ?? []), ...(coming?.told.detectors ?? [])].filter((entry) => entry.what === what).length;
  const finish = () =>
    coming &&
    take({ file: coming.file, preview: false })
      .unwrap()
      .then(
        () => {
          sayDone(`${count(number('new'))} new, ${count(number('changed'))} changed.`);
          setComing(null);
        },
        (error: unknown) => sayProblem(error, 'Nothing was imported'),
      );
  return (
    <>
      <Button component="a" href="/api/v1/detectors-file" download variant="default">
        Export
      </Button>
      {may && !coming ? (
        <FileButton onChange={(file) => void read(file)} accept=".json">
          {(props) => (
            <Button {...props} variant="default" loading={taking.isLoading}>
              Import
            </Button>
          )}
        </FileButton>
      ) : null}
      {coming ? (
        <section className="notice calm" aria-label="What the import would do" style={{ flexBasis: '100%', order: 1 }}>
          <p role="status">
            {count(number('new'))} new, {count(number('changed'))} changed, {count(number('same'))} the same
          </p>
          {WHAT.map((what) => (
            <Coming key={what} what={what} told={coming.told} />
          ))}
          <Group mt={8}>
            <Button onClick={() => void finish()}>Import them</Button>
            <Button variant="subtle" onClick={() => setComing(null)}>
              Cancel
            </Button>
          </Group>
        </section>
      ) : null}
    </>
  );
}

const WHAT = ['new', 'changed'] as const;

/** What is new or becomes another version, one by one. */
function Coming({ what, told }: { what: (typeof WHAT)[number]; told: ImportAnswer }) {
  const detectors = told.detectors.flatMap((entry) => (entry.what === what ? [entry.id] : []));
  const classes = told.classes.flatMap((entry) => (entry.what === what ? [entry.key] : []));
  return detectors.length + classes.length === 0 ? null : (
    <div>
      <span className="quiet">{what === 'new' ? 'New: ' : 'Become a new version: '}</span>
      <span className="mono">{[...classes, ...detectors].join(', ')}</span>
    </div>
  );
}
