/* Trouble in the library for numerics, which by itself would end the process. */
#ifndef ANALYSIS_NUMERICS_H
#define ANALYSIS_NUMERICS_H

/* From now on its functions tell of trouble by what they return; only without memory the process ends, as GLib ends
 * it. */
void rgp_numerics_go_on(void);

#endif
