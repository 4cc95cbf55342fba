import type { AssetAnswer } from '@idrel/contract/catalog';
import { where } from '@idrel/core/catalog';
import { Button } from '@mantine/core';
import { Link } from 'react-router';
import { sayDone, sayProblem } from '../app/say.ts';
import { opens } from '../catalog/index.ts';
import { CameFrom } from '../recognition/index.ts';
import { useRefuseTagMutation, useTagsQuery } from './tagsApi.ts';

type Arrived = AssetAnswer['arrivedTags'][number];

/** Tags that came to an asset along lineage: from where, by how many steps; each can be refused, and then goes no further from here. */
export function ArrivedTags({ asset }: { asset: AssetAnswer }) {
  const { data: tags = [] } = useTagsQuery(undefined, { skip: asset.arrivedTags.length === 0 });
  const [refuse, saying] = useRefuseTagMutation();
  if (asset.arrivedTags.length === 0) return null;
  const say = ({ id, name }: Arrived, refused: boolean): Promise<void> =>
    refuse({ id: asset.id, tag: id, refused })
      .unwrap()
      .then(
        () =>
          sayDone(
            refused
              ? `${name} is refused in ${asset.name}, and goes no further from there.`
              : `${name} comes to ${asset.name} again.`,
            () => say({ id, name } as Arrived, !refused),
          ),
        (error: unknown) => sayProblem(error, 'It was not saved'),
      );
  return (
    <section aria-label="Tags along lineage" className="small">
      <ul className="bare">
        {asset.arrivedTags.map((tag) => {
          const { id, name, value, from, distance, refused } = tag;
          const label = value ? `${name}/${value}` : name;
          const may = asset.mayEdit && tags.some((entry) => entry.id === id && entry.mayGive);
          return (
            <li key={`${id} ${value}`}>
              <Link className={refused ? 'gone' : ''} to={opens(`kind:any ${where('tag', label)}`)}>
                {label}
              </Link>{' '}
              <CameFrom assetId={asset.id} column={asset.kind === 'column'} from={from} distance={distance} />{' '}
              {may ? (
                <Button
                  variant="subtle"
                  size="compact-xs"
                  aria-label={`${refused ? 'Take it as it comes' : 'Refuse'}: ${label}`}
                  disabled={saying.isLoading}
                  onClick={() => void say(tag, !refused)}
                >
                  {refused ? 'Take it as it comes' : 'Refuse'}
                </Button>
              ) : refused ? (
                <span className="quiet">refused</span>
              ) : null}
            </li>
          );
        })}
      </ul>
    </section>
  );
}
