export { Questions } from './Questions.tsx';
