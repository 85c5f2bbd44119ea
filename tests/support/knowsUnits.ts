/** Programs import it where they begin; tests of single parts begin anywhere. */
import '@/core/units/ucumUnits.ts';
