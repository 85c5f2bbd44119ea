/** Patterns that several schemas ask for. */

/** RFC 9562, any version. */
export const UUID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i;
/** C0 control characters and DEL, which names and texts do not hold. */
// eslint-disable-next-line no-control-regex -- they are exactly what is looked for
export const CONTROL_CHARACTER = /[\u0000-\u001f\u007f]/;
// eslint-disable-next-line no-control-regex -- they are exactly what is looked for
export const CONTROL_CHARACTERS = /[\u0000-\u001f\u007f]+/g;
// eslint-disable-next-line no-control-regex -- they are exactly what is looked for
export const WITHOUT_CONTROL_CHARACTERS = /^[^\u0000-\u001f\u007f]*$/;
