/* Progress of many runs. */
#include "progress.h"

#include "runtime/interrupt.h"

#include <stdio.h>
#include <unistd.h>

#define PATIENCE_US 1000000 /* what is done sooner needs no such line */

progress progress_begin(uint32_t runs)
{
    interrupt_catch();
    return (progress){g_get_monotonic_time(), runs, false};
}

bool progress_tell(void *self, uint32_t done)
{
    progress *of = self;
    const gint64 passed = g_get_monotonic_time() - of->begun_us;
    if (isatty(STDERR_FILENO) && passed > PATIENCE_US && done > 0) {
        of->told = true;
        if (of->runs == 0) {
            fprintf(stderr, "\r%u runs   ", done);
            return !interrupt_asked();
        }
        fprintf(stderr, "\r%u of %u runs, about %.0f s more   ", done, of->runs,
                (double)passed / 1e6 * (of->runs - done) / done);
    }
    return !interrupt_asked();
}

void progress_end(const progress *of)
{
    if (of->told) {
        fprintf(stderr, "\r%60s\r", "");
    }
}
