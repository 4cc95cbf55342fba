import '@fontsource-variable/schibsted-grotesk/index.css';
import '@fontsource/commit-mono/400.css';
import '@mantine/core/styles.css';
import '@mantine/notifications/styles.css';
import './theme/base.css';
import { MantineProvider } from '@mantine/core';
import { Notifications } from '@mantine/notifications';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { Provider } from 'react-redux';
import { RouterProvider } from 'react-router';
import { api } from './app/api.ts';
import { KeysProvider } from './app/keys.tsx';
import { router } from './app/routes.tsx';
import { store } from './app/store.ts';
import { askForAsset } from './catalog/index.ts';
import { theme } from './theme/theme.ts';

// Who somebody is decides what is shown: it is asked for before anything is drawn, and what they come for as soon as that is known.
void store.dispatch(api.endpoints.session.initiate()).then(({ data }) => {
  const [, asset] = /^\/assets\/([0-9a-f-]{36})$/.exec(location.pathname) ?? [];
  if (data?.person && asset) askForAsset(asset, store.dispatch);
});

const root = document.getElementById('root');
if (root) {
  createRoot(root).render(
    <StrictMode>
      <Provider store={store}>
        <MantineProvider theme={theme} defaultColorScheme="auto">
          <Notifications position="bottom-right" />
          <KeysProvider>
            <RouterProvider router={router} />
          </KeysProvider>
        </MantineProvider>
      </Provider>
    </StrictMode>,
  );
}
