export { useAgentsQuery } from './agentsApi.ts';
export { useLeaveOutMutation } from './api.ts';
export { FileKinds } from './FileKinds.tsx';
export { FlowRuns } from './FlowRuns.tsx';
export { HowToSend } from './HowToSend.tsx';
export { PlanList } from './PlanList.tsx';
export { useRunsQuery, useStartRunMutation } from './runsApi.ts';
export { ScheduleChooser } from './ScheduleChooser.tsx';
