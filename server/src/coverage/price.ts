import type { RoomPrice } from '@idrel/contract/coverage';
import { change, type Kept } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { PRICE, type PriceRow } from './models.ts';

type Answer = RoomPrice & { readonly version: number; readonly mayChange: boolean };

const SELECT = 'select price, currency, version from room_price';
const answer = (who: Who, row: Omit<Answer, 'mayChange'> | undefined): Answer => ({
  price: null,
  currency: 'EUR',
  version: 1,
  ...row,
  mayChange: who.isEverywhere('administrator'),
});

/** What room costs, as the organisation reckons. */
export const readPrice = async (db: Db, who: Who): Promise<Answer> => answer(who, await db.one(SELECT));

const PRICES: Kept<PriceRow, Answer> = {
  thing: 'room price',
  model: PRICE,
  read: (db, who) => readPrice(db, who),
  told: (_db, { price, currency }) => ({ price, currency }),
  name: () => 'Price of room',
  may: (_db, who) => who.mustEverywhere('administrator'),
};

export async function setPrice(tx: Db, who: Who, version: number, values: RoomPrice): Promise<Answer> {
  const row = await tx.one<{ id: string }>('select id from room_price');
  return (await change(tx, who, PRICES, row?.id ?? '', { version, values })).after;
}
