export { keepFiguresInTime } from './course.ts';
export { mailOfReport, type ReportMail, tendReports } from './report.ts';
export { coverageRoutes } from './routes.ts';
