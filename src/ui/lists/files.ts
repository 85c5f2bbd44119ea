/** What may be chosen as a tag list; the contents decide what it is. */
export const LIST_FILES = '.csv,.txt,.tsv,.xlsx,.st,.xml,.json,text/csv,text/plain,application/json,text/xml';
