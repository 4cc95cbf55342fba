import {
  GENERAL,
  type General,
  type Keyed,
  MASK_KINDS,
  type Mask,
  type MaskKind,
  PART_MOST,
  STEPS,
} from '@idrel/core/access/masks';
import { Select, TextInput } from '@mantine/core';
import { NumberField } from '../marks/NumberField.tsx';

/** The mask that a choice begins with. */
export function freshMask(kind: MaskKind): Mask {
  switch (kind) {
    case 'blank':
      return { kind };
    case 'fixed':
      return { kind, text: 'withheld' };
    case 'partial':
      return { kind, first: 1, last: 0 };
    case 'digest':
    case 'substitute':
      return { kind, keyed: 'installation' };
    case 'general':
      return { kind, to: 'year', step: null };
    case 'noise':
      return { kind, spread: 5, of: 'percent' };
  }
}

const STEPS_AT_FIRST = { age: 10, district: 3, rounded: 100 } as const;
const generalised = (to: General): Mask =>
  to === 'age' || to === 'district' || to === 'rounded'
    ? { kind: 'general', to, step: STEPS_AT_FIRST[to] }
    : { kind: 'general', to, step: null };

/** What can be done with rows instead of hiding values. */
const LIMITS = { rows: 'show only some of them', groups: 'tell them only together' } as const;
type LimitKind = keyof typeof LIMITS;

/** How a value is hidden, and what is said with it: which part, how wide a band, for whom digests are equal. */
export function MaskSlots({
  mask,
  put,
  rows,
}: {
  mask: Mask | null;
  put: (mask: Mask) => void;
  /** What is chosen where rows are limited, and how that is chosen; nothing where they cannot be. */
  rows?: { readonly chosen: LimitKind | null; readonly choose: (kind: LimitKind) => void };
}) {
  return (
    <>
      <Select
        className="slot wide"
        aria-label="How"
        allowDeselect={false}
        data={[
          ...Object.entries(MASK_KINDS).map(([value, words]) => ({ value, label: `${value}: ${words}` })),
          ...(rows ? Object.entries(LIMITS).map(([value, words]) => ({ value, label: `${value}: ${words}` })) : []),
        ]}
        value={rows?.chosen ?? mask?.kind ?? null}
        onChange={(value) => {
          if (value && Object.hasOwn(LIMITS, value)) rows?.choose(value as LimitKind);
          else if (value) put(freshMask(value as MaskKind));
        }}
      />
      {mask && !rows?.chosen ? <Said mask={mask} put={put} /> : null}
    </>
  );
}

function Said({ mask, put }: { mask: Mask; put: (mask: Mask) => void }) {
  switch (mask.kind) {
    case 'blank':
      return null;
    case 'fixed':
      return (
        <TextInput
          aria-label="The text that stands there"
          maxLength={60}
          value={mask.text}
          onChange={(event) => put({ ...mask, text: event.currentTarget.value })}
        />
      );
    case 'partial':
      return (
        <>
          <span>with its first</span>
          <NumberField
            aria-label="Characters shown from the start"
            w={72}
            min={mask.last > 0 ? 0 : 1}
            max={PART_MOST}
            value={mask.first}
            put={(first) => put({ ...mask, first })}
          />
          <span>and last</span>
          <NumberField
            aria-label="Characters shown from the end"
            w={72}
            min={mask.first > 0 ? 0 : 1}
            max={PART_MOST}
            value={mask.last}
            put={(last) => put({ ...mask, last })}
          />
          <span>shown</span>
        </>
      );
    case 'digest':
    case 'substitute':
      return (
        <>
          <span>the same</span>
          <Select
            aria-label="For whom equal values stay equal"
            allowDeselect={false}
            data={[
              { value: 'installation', label: 'for all readers' },
              { value: 'organisation', label: 'within one organisation' },
            ]}
            value={mask.keyed}
            onChange={(keyed) => keyed && put({ ...mask, keyed: keyed as Keyed })}
          />
        </>
      );
    case 'general':
      return (
        <>
          <span>to</span>
          <Select
            className="slot"
            aria-label="To what it is generalised"
            allowDeselect={false}
            data={Object.entries(GENERAL).map(([value, label]) => ({ value, label }))}
            value={mask.to}
            onChange={(to) => to && put(generalised(to as General))}
          />
          {mask.step === null ? null : (
            <>
              <span>{mask.to === 'age' ? 'within' : mask.to === 'district' ? 'with its first' : 'of'}</span>
              <NumberField
                aria-label="Step"
                w={110}
                min={STEPS[mask.to].least}
                max={STEPS[mask.to].most}
                {...(mask.to === 'rounded' ? { decimalScale: 2 } : {})}
                value={mask.step}
                put={(step) => put({ ...mask, step })}
              />
              <span>{mask.to === 'age' ? 'years' : mask.to === 'district' ? 'characters' : ''}</span>
            </>
          )}
        </>
      );
    case 'noise':
      return (
        <>
          <span>by up to</span>
          <NumberField
            aria-label="Spread"
            w={110}
            min={0.01}
            max={1e12}
            decimalScale={2}
            value={mask.spread}
            put={(spread) => put({ ...mask, spread })}
          />
          <Select
            aria-label="Of what the spread is"
            w={170}
            allowDeselect={false}
            data={[
              { value: 'percent', label: '% of the value' },
              { value: 'unit', label: 'in its own unit' },
            ]}
            value={mask.of}
            onChange={(of) => of && put({ ...mask, of: of as 'unit' | 'percent' })}
          />
        </>
      );
  }
}
