export { forgetNews, tendNews } from './news.ts';
export { mailOfNews, type NewsMail, tendNewsMails } from './newsMail.ts';
export { exchangeRoutes } from './routes.ts';
export { mailOfWebhook, tendWebhooks, type WebhookMail } from './sending.ts';
export { forgetMessages, WEBHOOKS_HELD } from './webhooks.ts';
