import { endpoint, flag, Joi, list, nullable, type Of, shape, text } from '../http/index.ts';

export const ChatReply = shape({
  text: text.description('Lines of plain text.'),
  link: nullable(text).description('Where what it tells of is shown.'),
  only: flag.description(
    'Only whoever wrote may see it: it is as they may see the catalog. Else everybody in the channel may.',
  ),
});
export type ChatReply = Of<typeof ChatReply>;

export const ChatMessage = shape({
  from: Joi.string()
    .trim()
    .email({ tlds: false })
    .max(320)
    .description('The e-mail address of whoever wrote, as the chat knows them by.'),
  text: Joi.string().max(8000).description('What they wrote.'),
});
export type ChatMessage = Of<typeof ChatMessage>;

export const chatEndpoints = {
  message: endpoint({
    id: 'chatMessage',
    method: 'post',
    path: '/chat/messages',
    area: 'exchange',
    summary: 'Tell what somebody wrote in the chat',
    may: 'a chat',
    bodyBytes: 65_536,
    body: ChatMessage,
    answer: shape({ replies: list(ChatReply) }),
    answers:
      'What is said to it. To `find …`: the assets that this search finds for them. To addresses of this server: what they lead to, for everybody what its domain shows outside, for them what they may see. To `requests`, `grant`, `refuse`, `suggestions`, `take` and `leave`: requests for access and suggestions that are theirs to answer, where the operator lets them be answered there. To anything else: nothing.',
  }),
};
