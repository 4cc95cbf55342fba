import { keepableName, keepableWithin } from '@idrel/core/text';
import type { FoundAsset, Structure } from '../connectors/index.ts';

/** What a name was, as far as it is shown. */
const SHOWN = 2000;
/** So many are named one by one. */
const TOLD = 50;

/** A name with characters that are not shown written out. */
const written = (name: string) => JSON.stringify(name.slice(0, SHOWN)).slice(1, -1);

/**
 * A structure as it can be kept: one odd name, comment or default must not fail a whole scan. What was changed to be kept is told, and the name as it
 * is at the source stands among the asset's facts.
 */
export function keepStructure(structure: Structure): { structure: Structure; odd: { key: string; what: string }[] } {
  const odd: { key: string; what: string }[] = [];
  let more = 0;
  const assets = structure.assets.map((asset): FoundAsset => {
    const name = keepableName(asset.name);
    const kept = keepableWithin({ comment: asset.comment, native: asset.native, stats: asset.stats });
    const renamed = name !== asset.name;
    if (!renamed && kept.comment === asset.comment && kept.native === asset.native && kept.stats === asset.stats)
      return asset;
    const what = `${name}: ${renamed ? 'its name' : 'its description at the source'} holds what cannot be kept (U+0000, U+001F, half of a character, or more than 300 letters), and is shown with marks in its place.`;
    if (odd.length < TOLD) odd.push({ key: asset.key, what });
    else more += 1;
    return {
      ...asset,
      name,
      ...kept,
      native: { ...kept.native, ...(renamed ? { nameThere: written(asset.name) } : {}) },
    };
  });
  if (more > 0)
    odd.push({ key: assets[0]?.key ?? '', what: `${more} more names or descriptions hold what cannot be kept.` });
  return { structure: odd.length > 0 ? { ...structure, assets } : structure, odd };
}
