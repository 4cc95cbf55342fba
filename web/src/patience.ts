import { configure } from '@testing-library/dom';

// The library gives up after a second, which a busy machine can take for one render.
configure({ asyncUtilTimeout: 200_000 });
