export { Discussions } from './Discussions.tsx';
export { Guide } from './Guide.tsx';
export { OneDiscussion } from './OneDiscussion.tsx';
export { Saying } from './Saying.tsx';
export { useNoteDiscussionMutation } from './writingApi.ts';
