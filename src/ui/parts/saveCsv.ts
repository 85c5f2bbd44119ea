/** Gives a text to the browser to be saved as a file; the mark makes spreadsheets read it as UTF-8. */
export function saveCsv(name: string, csv: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob(['\uFEFF', csv], { type: 'text/csv;charset=utf-8' }));
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}
