/** What a report can be had as. */
export const REPORT_FORMATS = ['html', 'csv', 'pdf'] as const;
export type ReportFormat = (typeof REPORT_FORMATS)[number];
