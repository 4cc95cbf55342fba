import type { AssetAnswer } from '@idrel/contract/catalog';
import type { GuideAnswer } from '@idrel/contract/writing';
import { compareWords, compareWritten, type Difference } from '@idrel/core/writing';
import { Button, Group, Select, Stack } from '@mantine/core';
import dayjs from 'dayjs';
import { useMemo, useState } from 'react';
import { sayDone, sayProblem } from '../app/say.ts';
import { plural } from '../marks/index.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { useGuideVersionQuery, useGuideVersionsQuery, useSaveGuideMutation } from './writingApi.ts';

/** The versions of a guide: one compared with another, and brought back. */
export function Versions({ asset, guide }: { asset: AssetAnswer; guide: GuideAnswer }) {
  const { data, error } = useGuideVersionsQuery(asset.id);
  const [after, setAfter] = useState(guide.version);
  const [before, setBefore] = useState<number | null>(null);
  const [save, { isLoading }] = useSaveGuideMutation();
  const from = before ?? after - 1;
  const older = useGuideVersionQuery({ id: asset.id, version: from }, { skip: from < 1 });
  const newer = useGuideVersionQuery({ id: asset.id, version: after });
  if (error) return <Trouble error={error} what="The versions cannot be shown" />;
  if (!data) return <Coming lines={3} />;
  const choices = data.map(({ version, at, by }) => ({
    value: String(version),
    label: `${version} · ${by?.name ?? 'somebody'} · ${dayjs(at).format('D MMM YYYY, HH:mm')}`,
  }));
  const bringBack = async () => {
    try {
      if (!newer.currentData) return;
      const { text } = newer.currentData;
      const saved = await save({ id: asset.id, version: guide.version, text }).unwrap();
      sayDone(`Version ${after} stands again.`, () => save({ id: asset.id, version: saved.version, text: guide.text }));
      setAfter(saved.version);
      setBefore(null);
    } catch (failed) {
      sayProblem(failed, 'The version was not brought back');
    }
  };
  const ready = newer.currentData && (from < 1 || older.currentData);
  return (
    <Stack className="versions">
      <Group align="flex-end">
        <Select
          label="Version"
          w={300}
          data={choices}
          value={String(after)}
          allowDeselect={false}
          onChange={(value) => setAfter(Number(value))}
        />
        <Select
          label="Compared with"
          w={300}
          data={[...choices.filter(({ value }) => Number(value) !== after), { value: '0', label: 'nothing' }]}
          value={String(Math.max(0, from))}
          allowDeselect={false}
          onChange={(value) => setBefore(Number(value))}
        />
        {asset.mayEdit && after !== guide.version ? (
          <Button variant="default" loading={isLoading} onClick={() => void bringBack()}>
            Bring version {after} back
          </Button>
        ) : null}
      </Group>
      {ready ? (
        <Differences before={from < 1 ? '' : (older.currentData?.text ?? '')} after={newer.currentData?.text ?? ''} />
      ) : (
        <Coming lines={3} />
      )}
    </Stack>
  );
}

const SHOWN = 2;
/** How a text differs from another: what stands in both is shortened, paragraphs changed show their words. */
function Differences({ before, after }: { before: string; after: string }) {
  const parts = useMemo(() => compareWritten(before, after), [before, after]);
  if (parts.every((part) => 'same' in part)) return <p className="quiet">These two are the same.</p>;
  return (
    <div className="differences" role="group" aria-label="Differences">
      {parts.map((part, index) =>
        'same' in part ? <Same key={index} text={part.same} /> : <Changed key={index} part={part} />,
      )}
    </div>
  );
}

function Same({ text }: { text: string }) {
  const blocks = text.split('\n\n');
  const hidden = blocks.length - 2 * SHOWN;
  if (hidden < 1) return <p className="quiet written">{text}</p>;
  return (
    <>
      <p className="quiet written">{blocks.slice(0, SHOWN).join('\n\n')}</p>
      <p className="quiet small">… {plural(hidden, 'paragraph')} that did not change …</p>
      <p className="quiet written">{blocks.slice(-SHOWN).join('\n\n')}</p>
    </>
  );
}

function Changed({ part: { gone, come } }: { part: Extract<Difference, { gone: string }> }) {
  const words = useMemo(() => (gone && come ? compareWords(gone, come) : [{ gone, come }]), [gone, come]);
  return (
    <p className="written">
      {words.map((word, index) =>
        'same' in word ? (
          <span key={index}>{word.same}</span>
        ) : (
          <span key={index}>
            {word.gone ? <del>{word.gone}</del> : null}
            {word.come ? <ins>{word.come}</ins> : null}
          </span>
        ),
      )}
    </p>
  );
}
