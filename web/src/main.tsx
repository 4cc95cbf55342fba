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
import { theme } from './theme/theme.ts';

// Who somebody is decides what is shown: it is asked for before anything is drawn.
void store.dispatch(api.endpoints.session.initiate());

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
