export { useWebhooksQuery } from './api.ts';
export { outsOfFound } from './described.ts';
export { NewsButton } from './NewsButton.tsx';
export { Subscribe } from './Subscribe.tsx';
export { TakeOut } from './TakeOut.tsx';
