import { Button, Menu, useMantineColorScheme } from '@mantine/core';
import { Fragment, lazy, type ReactNode, Suspense, useContext, useEffect, useRef, useState } from 'react';
import { Link, Navigate, NavLink, Outlet, useLocation, useNavigate, useSearchParams } from 'react-router';
import { useLookAsMutation, useSessionQuery, useSignOutMutation } from '../app/api.ts';
import { useKeys } from '../app/keys.tsx';
import { sayProblem } from '../app/say.ts';
import { FilterField, forgetLately, opens, useSearchesQuery } from '../catalog/index.ts';
import { ManyUnderWay } from '../curation/index.ts';
import { NewsButton } from '../exchange/index.ts';
import { forgetEdits } from '../forms/keep.ts';
import { LevelNames } from '../marks/levelNames.ts';
import { Coming, Trouble } from '../marks/states.tsx';
import { SignIn } from '../people/index.ts';
import { useLevelsQuery } from '../recognition/index.ts';
import { Crumbs, CrumbsProvider } from './crumbs.tsx';
import { KeysHelp } from './KeysHelp.tsx';
import { VIEWS } from './views.ts';

const CommandPalette = lazy(() => import('./CommandPalette.tsx'));

/** The frame of every view: rail, top line, and the keys that work everywhere. */
export function Shell() {
  const session = useSessionQuery();
  if (session.isLoading) return <Coming />;
  if (session.error)
    return <Trouble error={session.error} what="Idrel cannot be reached" again={() => void session.refetch()} />;
  if (!session.data?.person) return <SignIn session={session.data} />;
  if (session.data.partner) return <OfPartner person={session.data.person.id} />;
  return (
    <CrumbsProvider>
      <NamedLevels>
        <Frame
          person={session.data.person.id}
          name={session.data.person.name}
          job={session.data.person.job}
          hasRole={session.data.grants.length > 0}
        />
      </NamedLevels>
    </CrumbsProvider>
  );
}

/** Signs out: nothing that was typed or seen stays in the browser. */
function useLeaving(person: string): () => void {
  const [signOut] = useSignOutMutation();
  return () =>
    void signOut()
      .unwrap()
      .catch(() => undefined)
      .then(() => {
        forgetEdits(person);
        forgetLately(person);
        sessionStorage.clear();
        window.location.assign('/');
      });
}

/** Of all that is here only what is shared is there for people of partner organisations. */
function OfPartner({ person }: { person: string }) {
  const { pathname, search } = useLocation();
  const leave = useLeaving(person);
  if (pathname !== '/shared') return <Navigate to={{ pathname: '/shared', search }} replace />;
  return (
    <Suspense fallback={<Coming />}>
      <Outlet context={leave} />
    </Suspense>
  );
}

/** The levels as the organisation calls them, for all marks below. The tree below stays the same when they come: a form that is typed into already is not made anew. */
function NamedLevels({ children }: { children: ReactNode }) {
  const { data } = useLevelsQuery();
  const usual = useContext(LevelNames);
  return <LevelNames.Provider value={data ?? usual}>{children}</LevelNames.Provider>;
}

function Frame({ person, name, job, hasRole }: { person: string; name: string; job: string; hasRole: boolean }) {
  const navigate = useNavigate();
  const [help, setHelp] = useState(false);
  const [palette, setPalette] = useState(false);
  const search = useRef<HTMLInputElement>(null);
  const { toggleColorScheme } = useMantineColorScheme();
  const leave = useLeaving(person);
  useKeys('everywhere', [
    { key: '/', what: 'search', act: () => search.current?.focus() },
    { key: 'mod+K', what: 'commands', act: () => setPalette(true) },
    { key: 'shift+?', what: 'the keys of this view', act: () => setHelp(true) },
    { key: '?', what: 'the keys of this view', act: () => setHelp(true) },
  ]);
  return (
    <div className="shell">
      <a className="hidden-visually skip" href="#main">
        To the content
      </a>
      <nav className="rail" aria-label="Views">
        <a className="name" href="/worklist">
          <img src="/mark.svg" alt="" width={20} height={20} />
          Idrel
        </a>
        <div className="views">
          {VIEWS.map(([path, label]) => (
            <Fragment key={path}>
              <NavLink to={`/${path}`}>{label}</NavLink>
              {path === 'catalog' ? <Pinned /> : null}
            </Fragment>
          ))}
        </div>
      </nav>
      <header className="topline">
        <Crumbs />
        <Search inputRef={search} />
        <ManyUnderWay />
        <NewsButton />
        <Button variant="default" onClick={() => setPalette(true)} aria-label="Commands, Ctrl K">
          Ctrl K
        </Button>
        <Button variant="default" onClick={() => setHelp(true)} aria-label="Keys of this view, ?">
          ?
        </Button>
        <Menu position="bottom-end" withinPortal>
          <Menu.Target>
            <Button variant="default">{name}</Button>
          </Menu.Target>
          <Menu.Dropdown>
            <Menu.Label>{job}</Menu.Label>
            <Menu.Item onClick={() => toggleColorScheme()}>Light or dark</Menu.Item>
            <Menu.Item onClick={() => navigate('/settings')}>Settings</Menu.Item>
            <Menu.Item onClick={leave}>Sign out</Menu.Item>
          </Menu.Dropdown>
        </Menu>
      </header>
      <LookingAs />
      <main className="main" id="main" tabIndex={-1}>
        {hasRole ? null : (
          <p className="notice calm" role="status">
            You have no role in any domain yet, so there is nothing here that you may see. Ask an administrator to give
            you one; it holds from your next request on.
          </p>
        )}
        <Suspense fallback={<Coming />}>
          <Outlet />
        </Suspense>
      </main>
      <KeysHelp open={help} close={() => setHelp(false)} />
      <Suspense fallback={null}>{palette ? <CommandPalette close={() => setPalette(false)} /> : null}</Suspense>
    </div>
  );
}

/** Says as whom the catalog is looked at, wherever one is, and the way back. */
function LookingAs() {
  const as = useSessionQuery().data?.lookingAs;
  const [look, { isLoading }] = useLookAsMutation();
  if (!as) return null;
  const back = () =>
    void look(null)
      .unwrap()
      // Nothing of what was seen as somebody else stays.
      .then(
        () => window.location.assign('/access?show=try'),
        (error: unknown) => sayProblem(error, 'You still look as them'),
      );
  return (
    <p className="notice calm looking" role="status">
      <strong>You see the catalog as {as.name} does</strong>, where you administer policies. Nothing is changed
      meanwhile, and it is noted that you looked.{' '}
      <Button size="compact-sm" variant="default" loading={isLoading} onClick={back}>
        Back to yourself
      </Button>
    </p>
  );
}

/** Searches that stand in the rail, below the catalog. */
function Pinned() {
  const { data = [] } = useSearchesQuery();
  const location = useLocation();
  const here = location.pathname === '/catalog' ? new URLSearchParams(location.search).get('filter') : null;
  return data
    .filter(({ pinned }) => pinned)
    .map(({ id, name, filter }) => (
      <Link
        key={id}
        className="kept cut"
        to={opens(filter)}
        title={filter}
        aria-current={here === filter ? 'page' : undefined}
      >
        {name}
      </Link>
    ));
}

/** The search of the top line: it opens the catalog with what was typed as its filter. */
function Search({ inputRef }: { inputRef: React.RefObject<HTMLInputElement | null> }) {
  const navigate = useNavigate();
  const location = useLocation();
  const [params] = useSearchParams();
  const shown = location.pathname === '/catalog' ? (params.get('filter') ?? '') : '';
  const [text, setText] = useState(shown);
  useEffect(() => setText(shown), [shown]);
  return (
    <FilterField
      text={text}
      setText={setText}
      search={(filter) => navigate(`/catalog?filter=${encodeURIComponent(filter)}`)}
      inputRef={inputRef}
    />
  );
}
