/* The forms of curves that a calibration is fitted to. */
#ifndef ANALYSIS_FIT_FORM_H
#define ANALYSIS_FIT_FORM_H

#include "fit.h"

typedef double shape(double x);

/* out(known) = sum of term[i] u^power[i], u = in(input). */
typedef struct fit_form {
    const char *word;
    guint least; /* points */
    guint terms;
    int power[3];
    shape *in, *out, *back; /* back: of what `out` makes */
    double (*value)(const double *setting, double in);
    void (*settle)(rgp_fit *fit, const double *was, bool fresh); /* terms -> settings */
} fit_form;

/* The form of the stage `word`; NULL: it has none. */
const fit_form *fit_form_of(const char *word);

#endif
