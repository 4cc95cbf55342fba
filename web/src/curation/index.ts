export {
  type ActionDraft,
  ActionFields,
  actionIn,
  draftIn,
  draftOf,
  useActionOptions,
  whatInWords,
} from './ActionFields.tsx';
export { Description } from './Description.tsx';
export { EFFECTS, Effects } from './Effects.tsx';
export { Facts } from './Facts.tsx';
export { ManyPanel } from './ManyPanel.tsx';
export { ManyUnderWay } from './ManyUnderWay.tsx';
export { MeaningCell } from './MeaningCell.tsx';
export { Notices } from './Notices.tsx';
export { PastedTexts } from './PastedTexts.tsx';
export { SheetMenu } from './SheetMenu.tsx';
export { Missing } from './StandingChooser.tsx';
export { Suggestions } from './Suggestions.tsx';
export { useNoteLapseMutation } from './standingApi.ts';
export { Tickets } from './Tickets.tsx';
