import type { KeptView } from '@idrel/contract/lineage';
import { Button, Group, Menu, Switch, TextInput } from '@mantine/core';
import { useNavigate } from 'react-router';
import { sayDone, sayProblem } from '../app/say.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { StripButtons } from '../forms/StripButtons.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { useBringBackViewMutation, useKeepViewMutation, useKeptViewsQuery, useRemoveViewMutation } from './api.ts';

type Shows = KeptView['shows'];

/** Pictures that one keeps and that others share; the way to keep the one that stands, under a name. */
export function KeptViews({
  view,
  focus,
  shows,
  keep,
}: {
  /** The one that is open. */
  view: KeptView | undefined;
  focus: string;
  /** How the picture stands now. */
  shows: () => Shows;
  /** Opens the way to keep it under a name, or one that is kept under another. */
  keep: (about: KeptView | undefined) => void;
}) {
  const navigate = useNavigate();
  const { data = [] } = useKeptViewsQuery();
  const [save] = useKeepViewMutation();
  const [remove] = useRemoveViewMutation();
  const [bringBack] = useBringBackViewMutation();
  const mine = view?.madeBy === null ? view : undefined;
  const entries = (list: typeof data) =>
    list.map(({ id, name, madeBy, focus: about }) => (
      <Menu.Item
        key={id}
        onClick={() => navigate(`/lineage?view=${id}`)}
        rightSection={<span className="quiet small">{madeBy ?? about.path}</span>}
      >
        {name}
      </Menu.Item>
    ));
  const saveAgain = async (about: KeptView): Promise<void> => {
    try {
      const body = { name: about.name, focus: about.focus.id, shared: about.shared, shows: shows() };
      await save({ id: about.id, version: about.version, body }).unwrap();
      sayDone(`“${about.name}” is kept as it stands now.`);
    } catch (error) {
      sayProblem(error, 'The picture was not kept');
    }
  };
  const drop = async (about: KeptView): Promise<void> => {
    try {
      await remove(about.id).unwrap();
      navigate(`/lineage?focus=${focus}`, { replace: true });
      sayDone(`“${about.name}” is kept no more.`, () => bringBack(about.id));
    } catch (error) {
      sayProblem(error, 'The picture was not removed');
    }
  };
  const [own, shared] = [data.filter(({ madeBy }) => madeBy === null), data.filter(({ madeBy }) => madeBy !== null)];
  return (
    <Menu position="bottom-end" withinPortal>
      <Menu.Target>
        <Button variant="default" size="compact-xs">
          Kept
        </Button>
      </Menu.Target>
      <Menu.Dropdown maw={420} mah={420} className="scrolled">
        <Menu.Item onClick={() => keep(undefined)}>Keep this picture …</Menu.Item>
        {mine ? (
          <>
            <Menu.Item onClick={() => void saveAgain(mine)}>Keep “{mine.name}” as it stands now</Menu.Item>
            <Menu.Item onClick={() => keep(mine)}>Rename or share it …</Menu.Item>
            <Menu.Item onClick={() => void drop(mine)}>Keep “{mine.name}” no more</Menu.Item>
          </>
        ) : null}
        {own.length > 0 ? <Menu.Label>Yours</Menu.Label> : null}
        {entries(own)}
        {shared.length > 0 ? <Menu.Label>Shared</Menu.Label> : null}
        {entries(shared)}
      </Menu.Dropdown>
    </Menu>
  );
}

interface Draft {
  name: string;
  shared: boolean;
}
const fieldsOf = ({ name, shared }: KeptView): Draft => ({ name, shared });

/** What a picture is kept under, and whether others see it. */
export function KeepView({
  about,
  focus,
  shows,
  close,
}: {
  about: KeptView | undefined;
  focus: string;
  shows: Shows;
  close: (saved?: KeptView) => void;
}) {
  const [save] = useKeepViewMutation();
  const edit = useEditForm<Draft, KeptView>({
    key: about ? `view:${about.id}` : `view:new:${focus}`,
    now: about ? { version: about.version, values: fieldsOf(about) } : null,
    fresh: { name: '', shared: false },
    valuesOf: fieldsOf,
    send: (body, version) =>
      save({ id: about?.id ?? null, version, body: { ...body, focus: about?.focus.id ?? focus, shows } }).unwrap(),
    done: (saved) => {
      sayDone(`“${saved.name}” is kept; its address leads here.`);
      close(saved);
    },
  });
  const { form, values, put } = edit;
  return (
    <form
      className="toolbar stack"
      onSubmit={(event) => {
        event.preventDefault();
        void edit.save();
      }}
    >
      <FormNotice edit={edit} words={{ name: 'Name', shared: 'Shared' }} />
      <Group wrap="wrap" align="flex-end">
        <TextInput
          className="grow"
          label="Name of the picture"
          description="It is kept with what is shown, folded, marked and followed, and where you moved things to."
          required
          autoFocus
          {...form.getInputProps('name')}
          onKeyDown={(event) => {
            if (event.key === 'Escape') close();
          }}
        />
        <Switch
          mb={7}
          label="Shared with everybody"
          checked={values.shared}
          onChange={(event) => put({ shared: event.currentTarget.checked })}
        />
        <StripButtons
          edit={edit}
          words={about ? 'Save picture' : 'Keep picture'}
          ready={values.name.trim() !== ''}
          close={close}
        />
      </Group>
    </form>
  );
}
