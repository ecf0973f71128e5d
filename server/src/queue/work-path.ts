/** Where machines that help meet the server. */
export const WORK_PATH = '/work';
/** The header that says by which bytes can be seen to be whole. */
export const SUM_HEADER = 'x-sum';
