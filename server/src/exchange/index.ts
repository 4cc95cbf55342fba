export { type CallJob, callable, callLater, callWebhook } from './calls.ts';
export { chatOnly, tellOfWaiting } from './chat.ts';
export { type DescribedTask, writeDescribed } from './described.ts';
export { forgetNews, tendNews } from './news.ts';
export { type NewsJob, tellNews, tendNewsOut } from './newsOut.ts';
export { exchangeRoutes } from './routes.ts';
export { mailOfWebhook, tendWebhooks, type WebhookMail } from './sending.ts';
export { forgetMessages, resealWebhooks, WEBHOOKS_HELD } from './webhooks.ts';
