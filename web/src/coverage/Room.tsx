import type { CoverageAnswer, CoverageRow, GovernedBy, KeptBy, RoomPrice } from '@idrel/contract/coverage';
import { Box, Button, Group, TextInput } from '@mantine/core';
import dayjs from 'dayjs';
import { lazy, Suspense, useState } from 'react';
import { Link } from 'react-router';
import { sayDone } from '../app/say.ts';
import { opens } from '../catalog/index.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { StripButtons } from '../forms/StripButtons.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { bytes, percent } from '../marks/index.tsx';
import { Listing, num } from '../marks/Listing.tsx';
import { NumberField } from '../marks/NumberField.tsx';
import { useCoverageCourseQuery, useRoomPriceQuery, useSetRoomPriceMutation } from './api.ts';

const Bytes = lazy(() => import('./Bytes.tsx').then(({ Bytes }) => ({ default: Bytes })));
const SINCE = 90;

/** What so many bytes cost a month. */
export function costOf(room: number, { price, currency }: RoomPrice): string {
  if (price === null) return '';
  const cost = (room / 1e9) * price;
  if (cost > 0 && cost < 0.005) return `under ${costOf(0.01e9, { price: 1, currency })}`;
  return new Intl.NumberFormat('en', {
    style: 'currency',
    currency,
    maximumFractionDigits: cost !== 0 && cost < 10 ? 2 : 0,
  }).format(cost);
}

/** How much room is taken, what of it nobody asks for, and what that costs. */
export function Room({ data, by, domain }: { data: CoverageAnswer; by: GovernedBy; domain: string | undefined }) {
  const price = useRoomPriceQuery();
  const course = useCoverageCourseQuery({ by: by as KeptBy, measure: 'unusedBytes', days: SINCE, domain });
  const [changing, setChanging] = useState(false);
  const known: RoomPrice = price.data ?? { price: null, currency: 'EUR' };
  const { all } = data;
  const of = (key: string) => course.data?.all.find((one) => one.key === key)?.met ?? [];
  const days = course.data?.days ?? [];
  const rows = [all, ...[...data.rows].filter((row) => row.bytes > 0 || by === 'domain')];
  return (
    <>
      <p className="told">
        {all.bytes === 0 ? (
          'No source told how much room it takes.'
        ) : (
          <>
            <strong>{bytes(all.bytes)}</strong> in all.{' '}
            <Link to={`${opens(all.filter, data.unused)}&sort=size&down=1`}>
              <strong>{bytes(all.unusedBytes)}</strong>
            </Link>{' '}
            of it, {percent(all.unusedBytes / all.bytes)}, nobody asked for in 90 days
            {known.price === null ? '' : `: ${costOf(all.unusedBytes, known)} a month`}.
          </>
        )}
      </p>
      <p className="quiet small">
        Counted as unused is what has been here for 90 days at least, whose source tells what is asked of it, and for
        which nobody asked, neither there nor through the gateway.{' '}
        {known.price === null
          ? 'No price of room is set.'
          : `Reckoned at ${new Intl.NumberFormat('en', { style: 'currency', currency: known.currency, maximumFractionDigits: 4 }).format(known.price)} for a gigabyte a month.`}{' '}
        {price.data?.mayChange && !changing ? (
          <Button variant="subtle" size="compact-xs" onClick={() => setChanging(true)}>
            {known.price === null ? 'Set a price' : 'Change the price'}
          </Button>
        ) : null}
      </p>
      {changing && price.data ? <PriceForm now={price.data} close={() => setChanging(false)} /> : null}
      {days.length > 1 ? (
        <Box my={12}>
          <Suspense fallback={<Box h={170} />}>
            <Bytes
              days={days}
              lines={[
                { name: 'All', values: of('bytes') },
                { name: 'Unused', values: of('unusedBytes') },
              ]}
              label={`Room since ${dayjs(days[0]).format('D MMM YYYY')}: ${bytes(of('bytes')[0])} then, ${bytes(of('bytes').at(-1))} now; unused ${bytes(of('unusedBytes')[0])} then, ${bytes(of('unusedBytes').at(-1))} now`}
            />
          </Suspense>
        </Box>
      ) : null}
      <Listing
        heads={[
          'Name',
          num('Room'),
          num('Unused'),
          num('Share unused'),
          known.price !== null && num('Unused, a month'),
          days.length > 1 && num(`Unused on ${dayjs(days[0]).format('D MMM')}`),
        ]}
        label="Room"
      >
        {rows.map((row, nth) => (
          <Line
            key={row.key || row.filter || 'all'}
            row={row}
            unused={data.unused}
            price={known}
            strong={nth === 0}
            then={
              days.length > 1
                ? nth === 0
                  ? of('unusedBytes')[0]
                  : course.data?.rows.find(({ key }) => key === row.key)?.met[0]
                : null
            }
          />
        ))}
      </Listing>
    </>
  );
}

const Line = ({
  row,
  unused,
  price,
  strong,
  then,
}: {
  row: CoverageRow;
  unused: string;
  price: RoomPrice;
  strong: boolean;
  /** What was unused when the record that is shown begins; null: it has not begun. */
  then: number | undefined | null;
}) => (
  <tr>
    <td style={{ paddingLeft: row.depth * 16, fontWeight: strong ? 620 : undefined }}>{row.name}</td>
    <td className="num">{bytes(row.bytes)}</td>
    <td className="num">
      {row.unusedBytes > 0 ? (
        <Link
          to={`${opens(row.filter, unused)}&sort=size&down=1`}
          aria-label={`${bytes(row.unusedBytes)} unused, ${row.name}`}
        >
          {bytes(row.unusedBytes)}
        </Link>
      ) : (
        <span className="quiet">0 B</span>
      )}
    </td>
    <td className="num">{row.bytes > 0 ? percent(row.unusedBytes / row.bytes) : '–'}</td>
    {price.price === null ? null : <td className="num">{costOf(row.unusedBytes, price)}</td>}
    {then === null ? null : <td className="num quiet">{bytes(then ?? 0)}</td>}
  </tr>
);

type Draft = { price: number | null; currency: string };
const draftOf = ({ price, currency }: RoomPrice): Draft => ({ price, currency });

function PriceForm({ now, close }: { now: RoomPrice & { readonly version: number }; close: () => void }) {
  const [set] = useSetRoomPriceMutation();
  const edit = useEditForm<Draft, RoomPrice & { readonly version: number }>({
    key: 'room-price',
    now: { version: now.version, values: draftOf(now) },
    fresh: draftOf(now),
    valuesOf: draftOf,
    send: (body, version) => set({ version, body }).unwrap(),
    done: (saved, before) => {
      sayDone('The price of room is set.', () => set({ version: saved.version, body: before }));
      close();
    },
  });
  return (
    <form
      className="toolbar stack"
      aria-label="Price of room"
      onSubmit={(event) => {
        event.preventDefault();
        void edit.save();
      }}
    >
      <Group align="flex-end">
        <NumberField
          label="A gigabyte costs, a month"
          description="Of 10⁹ bytes, as your organisation reckons; empty: none"
          optional
          min={0}
          max={1_000_000}
          decimalScale={4}
          value={edit.values.price}
          put={(price) => edit.put({ price })}
          w={280}
        />
        <TextInput label="Currency" maxLength={3} w={90} {...edit.form.getInputProps('currency')} />
        <StripButtons
          edit={edit}
          words="Save the price"
          ready={/^[A-Z]{3}$/.test(edit.values.currency)}
          close={close}
        />
      </Group>
      <FormNotice edit={edit} words={{ price: 'Price', currency: 'Currency' }} />
    </form>
  );
}
