export { CloudEvent, eventEndpoints } from './events.ts';
export { Webhook, WebhookBody, WebhookMessage, webhookEndpoints } from './webhooks.ts';
