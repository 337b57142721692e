/* Trouble in the library for numerics. */
#include "numerics.h"

#include <glib.h>
#include <gsl/gsl_errno.h>

static void take_trouble(const char *reason, const char *file, int line, int code)
{
    (void)file;
    (void)line;
    if (code == GSL_ENOMEM) {
        g_error("%s", reason);
    }
}

void rgp_numerics_go_on(void)
{
    gsl_set_error_handler(take_trouble);
}
