/** Languages that are offered; any other is written by its code (BCP 47). */
export const OFFERED_LANGUAGES = [
  'ar', 'bg', 'bs', 'ca', 'cs', 'da', 'de', 'el', 'en', 'es', 'et', 'fa', 'fi', 'fr', 'he', 'hi', 'hr', 'hu', 'id', 'it', 'ja', 'ka', 'kk', 'ko',
  'lt', 'lv', 'mk', 'ms', 'nb', 'nl', 'pl', 'pt', 'pt-BR', 'ro', 'ru', 'sk', 'sl', 'sq', 'sr', 'sv', 'th', 'tr', 'uk', 'uz', 'vi', 'zh-Hans', 'zh-Hant',
] as const; // prettier-ignore
