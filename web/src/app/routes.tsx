import { createBrowserRouter, isRouteErrorResponse, Navigate, useRouteError } from 'react-router';
import { Shell } from '../shell/Shell.tsx';

function Lost() {
  const error = useRouteError();
  const missing = isRouteErrorResponse(error) && error.status === 404;
  return (
    <div className="empty" role="alert">
      <h1>{missing ? 'There is nothing at this address' : 'This view failed'}</h1>
      <p>
        {missing
          ? 'The link may be old, or mistyped.'
          : `${error instanceof Error ? error.message : String(error)} Nothing that was saved is affected.`}
      </p>
      <p>
        <a href="/catalog">Open the catalog</a>
      </p>
    </div>
  );
}

/** Views are loaded when they are opened. */
export const router = createBrowserRouter([
  {
    path: '/set-password',
    errorElement: <Lost />,
    hydrateFallbackElement: <div />,
    lazy: () => import('../people/SetPassword.tsx'),
  },
  {
    path: '/',
    element: <Shell />,
    errorElement: <Lost />,
    hydrateFallbackElement: <div />,
    children: [
      { index: true, element: <Navigate to="/worklist" replace /> },
      { path: 'worklist', lazy: () => import('../worklist/Worklist.tsx') },
      { path: 'catalog', lazy: () => import('../catalog/Catalog.tsx') },
      { path: 'catalog/searches', lazy: () => import('../catalog/Searches.tsx') },
      { path: 'catalog/sheet', lazy: () => import('../curation/SheetBack.tsx') },
      { path: 'catalog/many', lazy: () => import('../curation/ManyList.tsx') },
      { path: 'at/*', lazy: () => import('../catalog/AtPlace.tsx') },
      { path: 'assets/:id', lazy: () => import('../catalog/AssetPage.tsx') },
      { path: 'sources', lazy: () => import('../sources/Sources.tsx') },
      { path: 'sources/new', lazy: () => import('../sources/Register.tsx') },
      { path: 'sources/credentials', lazy: () => import('../sources/Credentials.tsx') },
      { path: 'sources/agents', lazy: () => import('../scanning/Agents.tsx') },
      { path: 'sources/:id', lazy: () => import('../sources/SourcePage.tsx') },
      { path: 'sources/:id/statements', lazy: () => import('../lineage/Statements.tsx') },
      { path: 'sources/:source/plans/new', lazy: () => import('../scanning/PlanPage.tsx') },
      { path: 'plans/:id', lazy: () => import('../scanning/PlanPage.tsx') },
      { path: 'runs/:id', lazy: () => import('../scanning/RunPage.tsx') },
      { path: 'recognition', lazy: () => import('../recognition/Recognition.tsx') },
      { path: 'glossary', lazy: () => import('../glossary/Glossary.tsx') },
      { path: 'glossary/tags', lazy: () => import('../curation/Tags.tsx') },
      { path: 'lineage', lazy: () => import('../lineage/Lineage.tsx') },
      { path: 'lineage/many', lazy: () => import('../lineage/ManyEdges.tsx') },
      { path: 'lineage/change', lazy: () => import('../lineage/Proposed.tsx') },
      { path: 'lineage/causes', lazy: () => import('../lineage/Causes.tsx') },
      { path: 'access', lazy: () => import('../access/Access.tsx') },
      { path: 'shared', lazy: () => import('../access/partner/PartnerHome.tsx') },
      { path: 'routines', lazy: () => import('../routines/Routines.tsx') },
      { path: 'coverage', lazy: () => import('../coverage/Coverage.tsx') },
      { path: 'coverage/report', lazy: () => import('../coverage/Report.tsx') },
      { path: 'news', lazy: () => import('../exchange/News.tsx') },
      { path: 'settings', lazy: () => import('../settings/Settings.tsx') },
      { path: 'settings/priority', lazy: () => import('../curation/Priority.tsx') },
      { path: 'settings/checklists', lazy: () => import('../curation/Checklists.tsx') },
      { path: 'settings/people', lazy: () => import('../people/People.tsx') },
      { path: 'settings/domains', lazy: () => import('../people/Domains.tsx') },
      { path: 'settings/guides', lazy: () => import('../writing/GuideTemplates.tsx') },
      { path: 'settings/webhooks', lazy: () => import('../exchange/Webhooks.tsx') },
      { path: 'settings/api', lazy: () => import('../settings/ApiReference.tsx') },
      { path: '*', element: <Missing /> },
    ],
  },
]);

function Missing() {
  return (
    <div className="empty">
      <h1>There is nothing at this address</h1>
      <p>
        The link may be old, or mistyped. <a href="/catalog">Open the catalog</a>
      </p>
    </div>
  );
}
