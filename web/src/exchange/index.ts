export { NewsButton } from './NewsButton.tsx';
export { Subscribe } from './Subscribe.tsx';
