import type { AssetAnswer } from '@idrel/contract/catalog';
import { escaped } from '@idrel/core/writing/mentions';
import { CopyButton } from '@mantine/core';

/** The addresses of an asset, and what it is called, each to be copied: for a ticket, a chat, a document, a statement. */
export function Copying({ asset }: { asset: Pick<AssetAnswer, 'id' | 'path' | 'place' | 'sqlName'> }) {
  const { origin } = window.location;
  const link = `${origin}/assets/${asset.id}`;
  const texts = [
    ['Link', link, 'It leads here for good, whatever the asset is called later.'],
    ['Readable link', origin + asset.place, 'It says what it leads to, and leads here also when that is renamed.'],
    ['Markdown', `[${escaped(asset.path)}](${link})`, 'For tickets and documents.'],
    ...(asset.sqlName ? [['SQL name', asset.sqlName, 'As a statement has it.']] : []),
  ] as const;
  return (
    <ul className="bare copying">
      {texts.map(([label = '', text = '', why]) => (
        <li key={label}>
          <CopyButton value={text}>
            {({ copied, copy }) => (
              <button type="button" className="linkish" title={`${text}\n${why}`} onClick={copy}>
                {copied ? 'Copied' : label}
              </button>
            )}
          </CopyButton>
        </li>
      ))}
    </ul>
  );
}
