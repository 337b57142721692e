/* Single readings that are far from those around them. */
#ifndef ANALYSIS_SPIKES_H
#define ANALYSIS_SPIKES_H

#include <stddef.h>

/* Leaves out what lies far from its neighbourhood, up to three readings in a row: how many there were, and `without`
 * them, NAN in their place. None where they are more than a tenth. NAN: no reading. */
size_t rgp_spikes_out(const double *measured, size_t count, double *without);

#endif
