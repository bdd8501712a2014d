import type { z } from 'zod';

/** Answers are whole: nothing in them is left to a default. */
export const whole = <S extends z.ZodType>(schema: S) => schema as unknown as z.ZodType<z.output<S>, z.output<S>>;
