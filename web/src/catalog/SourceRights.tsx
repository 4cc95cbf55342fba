import type { AssetAnswer } from '@idrel/contract/catalog';
import { Box } from '@mantine/core';
import { Listing } from '../marks/Listing.tsx';

/** Who has which right at the source itself, by what the source says: the owner first, then everybody, then the rest by name. */
export function rightsOf(
  native: Readonly<Record<string, unknown>>,
): { who: string; rights: string; notable: boolean }[] {
  if (typeof native.owner !== 'string') return [];
  const given = Object.entries((native.rights ?? {}) as Record<string, string>).map(([who, rights]) => ({
    who,
    rights,
    notable: who === 'everybody',
  }));
  return [
    { who: native.owner, rights: 'owns it: all rights', notable: false },
    ...given.sort((a, b) => Number(b.notable) - Number(a.notable) || a.who.localeCompare(b.who, 'en')),
  ];
}

/** Rights given at the source: whoever connects there with them does not pass the policies. */
export function SourceRights({ asset }: { asset: AssetAnswer }) {
  const rights = rightsOf(asset.native);
  if (rights.length === 0) return null;
  return (
    <Box mt={18}>
      <h3>Rights at the source</h3>
      <p className="quiet small">
        Roles of the source itself. Whoever connects there with them does not pass Idrel’s policies.
      </p>
      <Listing widths={[200]} label="Rights at the source">
        {rights.map(({ who, rights: what, notable }) => (
          <tr key={who}>
            <td className={notable ? 'attention' : 'mono'}>{who}</td>
            <td className="small">{what}</td>
          </tr>
        ))}
      </Listing>
    </Box>
  );
}
