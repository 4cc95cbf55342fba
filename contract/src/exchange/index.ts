export { ChatMessage, ChatReply, chatEndpoints } from './chat.ts';
export {
  DESCRIBED_AS,
  DESCRIBED_MANY_AS,
  DESCRIBED_MOST,
  type DescribedAs,
  describedEndpoints,
} from './described.ts';
export { CloudEvent, eventEndpoints } from './events.ts';
export {
  AssetLine,
  EdgeOfLine,
  LINE_SCOPES,
  Line,
  LineAnswer,
  type LineKind,
  LinesEnd,
  lineEndpoints,
  PersonOfLine,
  SAID_FIELDS,
  type SaidField,
  SaidLine,
  TagOfLine,
  TermOfLine,
} from './lines.ts';
export {
  News,
  newsEndpoints,
  PACES,
  type Pace,
  SUBSCRIBED,
  type Subscribed,
  Subscription,
  SubscriptionBody,
  SubscriptionHow,
} from './news.ts';
export { Webhook, WebhookBody, WebhookMessage, webhookEndpoints } from './webhooks.ts';
