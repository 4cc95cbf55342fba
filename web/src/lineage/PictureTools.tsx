import type { Input } from '@idrel/contract/http/address';
import type { lineageEndpoints } from '@idrel/contract/lineage';
import { Button, Group, Menu, TextInput } from '@mantine/core';
import { useRef, useState } from 'react';
import { saveFile } from '../app/files.ts';
import { useKeys } from '../app/keys.tsx';
import { sayProblem } from '../app/say.ts';
import { usePictureFileMutation } from './api.ts';
import { toPng } from './drawing.ts';

type Asked = Input<(typeof lineageEndpoints)['pictureFile']>['query'];

const FILES = [
  { format: 'csv', label: 'CSV: an edge a row' },
  { format: 'mermaid', label: 'Mermaid: a flowchart as text' },
  { format: 'openlineage', label: 'OpenLineage: events of jobs' },
] as const;

/** What is done with a whole picture: finding in it, reading it as an outline, taking it along as a file. */
export function PictureTools({
  asked,
  name,
  draw,
  sought,
  found,
  at,
  seek,
  next,
  outline,
  setOutline,
}: {
  /** What the picture was asked for by. */
  asked: Omit<Asked, 'format'>;
  /** What it is about. */
  name: string;
  /** The picture as SVG. */
  draw: () => string;
  sought: string;
  /** How many fit what is sought. */
  found: number;
  /** Which of them is in view, the first being 0. */
  at: number;
  seek: (text: string) => void;
  next: (by: 1 | -1) => void;
  outline: boolean;
  setOutline: (on: boolean) => void;
}) {
  const [make] = usePictureFileMutation();
  const [making, setMaking] = useState(false);
  const field = useRef<HTMLInputElement>(null);
  useKeys('Lineage picture', [
    { key: 'f', what: 'find in the picture', act: () => field.current?.focus() },
    { key: 'o', what: 'the picture as an outline', act: () => setOutline(!outline) },
  ]);
  const take = async (work: () => Promise<{ name: string; type: string; content: string }>): Promise<void> => {
    setMaking(true);
    try {
      saveFile(await work());
    } catch (failed) {
      sayProblem(failed, 'The file was not written');
    } finally {
      setMaking(false);
    }
  };
  const file = `lineage of ${name}`;
  return (
    <Group gap={6}>
      <TextInput
        ref={field}
        size="xs"
        w={130}
        aria-label="Find in the picture"
        placeholder="Find in the picture"
        value={sought}
        onChange={(event) => seek(event.currentTarget.value)}
        onKeyDown={(event) => {
          if (event.key === 'Enter') next(event.shiftKey ? -1 : 1);
          if (event.key === 'Escape') {
            seek('');
            event.currentTarget.blur();
          }
        }}
        rightSectionWidth={58}
        rightSection={
          sought.trim() === '' ? null : (
            <span className="quiet small" role="status">
              {found === 0 ? 'none' : `${at + 1} of ${found}`}
            </span>
          )
        }
      />
      <Button variant="default" size="compact-xs" aria-pressed={outline} onClick={() => setOutline(!outline)}>
        Outline
      </Button>
      <Menu position="bottom-end" withinPortal>
        <Menu.Target>
          <Button variant="default" size="compact-xs" loading={making}>
            Export
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Item
            onClick={() =>
              void take(async () => ({ name: `${file}.svg`, type: 'image/svg+xml', content: inBase64(draw()) }))
            }
          >
            SVG, as it stands here
          </Menu.Item>
          <Menu.Item
            onClick={() =>
              void take(async () => ({ name: `${file}.png`, type: 'image/png', content: await toPng(draw()) }))
            }
          >
            PNG, as it stands here
          </Menu.Item>
          {FILES.map(({ format, label }) => (
            <Menu.Item key={format} onClick={() => void take(() => make({ ...asked, format }).unwrap())}>
              {label}
            </Menu.Item>
          ))}
        </Menu.Dropdown>
      </Menu>
    </Group>
  );
}

const inBase64 = (text: string): string =>
  btoa(Array.from(new TextEncoder().encode(text), (byte) => String.fromCharCode(byte)).join(''));
