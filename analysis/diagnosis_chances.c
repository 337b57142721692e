/* Chances of causes out of signs: multinomial logistic regression. */
#include "diagnosis_parts.h"

#include <math.h>
#include <string.h>

#define FAR 3.0 /* spreads: what is farther off counts as that far */

const char *const rgp_cause_words[RGP_CAUSES] = {
#define WORD(name, word) word,
    RGP_CAUSE_LIST(WORD)
#undef WORD
};

void diagnosis_inputs(const rgp_signs *sign, const double *mean, const double *spread, double *input)
{
    double of[RGP_SIGNS];
    memcpy(of, sign, sizeof of);
    input[0] = 1.0;
    for (uint32_t i = 0; i < RGP_SIGNS; i++) {
        const double z = fmin(fmax((of[i] - mean[i]) / spread[i], -FAR), FAR);
        input[1 + i] = z;
        input[1 + RGP_SIGNS + i] = z * z - 1.0;
    }
}

void diagnosis_shares(const double (*weight)[DIAGNOSIS_INPUTS], const double *input, const bool *may, double *share)
{
    double most = -INFINITY, sum = 0.0;
    for (uint32_t c = 0; c < RGP_CAUSES; c++) {
        share[c] = 0.0;
        for (uint32_t i = 0; may[c] && i < DIAGNOSIS_INPUTS; i++) {
            share[c] += weight[c][i] * input[i];
        }
        most = may[c] ? fmax(most, share[c]) : most;
    }
    for (uint32_t c = 0; c < RGP_CAUSES; c++) {
        share[c] = may[c] ? exp(share[c] - most) : 0.0;
        sum += share[c];
    }
    for (uint32_t c = 0; c < RGP_CAUSES; c++) {
        share[c] /= sum > 0.0 ? sum : 1.0;
    }
}

#define NEARLY_HALF 0.45
#define MOST        0.8
#define LONG        0.1 /* of the time, at a limit */
#define HARDLY_I    0.2 /* quarter turns */
#define TAUGHT      2.0 /* times as many loops */
#define TWICE       2.0 /* as likely as any cause: less is not called healthy */

static void put_likeliest(rgp_diagnosis *to)
{
    rgp_cause cause = RGP_CAUSE_SIGN;
    for (int c = 0; c < RGP_CAUSES; c++) {
        cause = c != RGP_CAUSE_HEALTHY && to->chance[c] > to->chance[cause] ? (rgp_cause)c : cause;
    }
    to->first = to->chance[RGP_CAUSE_HEALTHY] >= TWICE * to->chance[cause] ? RGP_CAUSE_HEALTHY : cause;
    to->second = to->first == RGP_CAUSE_HEALTHY ? cause : RGP_CAUSE_HEALTHY;
    for (int c = 0; c < RGP_CAUSES; c++) {
        if (c != (int)to->first && to->chance[c] > to->chance[to->second]) {
            to->second = (rgp_cause)c;
        }
    }
}

/* Of swings that a loop makes itself. */
static const rgp_cause own_swings[] = {RGP_CAUSE_P_MUCH, RGP_CAUSE_I_MUCH, RGP_CAUSE_D_MISSING, RGP_CAUSE_D_MUCH,
                                       RGP_CAUSE_DEAD};

/* One steady sine from outside, and one that the loop makes, look alike to a model, which has any loop near swinging by
 * it: about half of the chance of the one goes to the likeliest cause of the other. The greater part does where limits
 * cut the output off: a loop's own swing grows until something stops it; and most of it where the integral has no time
 * to act in a period either, since few things from outside come so quickly. So does one that is no single sine, but
 * reaches a limit each time: then it may be either, too. Of which kind more loops are that somebody looks at, no
 * weights can know. */
static double own_part(const rgp_diagnosis *d, bool is_one_sine, bool has_model)
{
    if (d->sign.cut < LONG || (has_model && !is_one_sine)) {
        return NEARLY_HALF;
    }
    return d->sign.lag_of_i < HARDLY_I ? MOST : 1.0 - NEARLY_HALF;
}

static void share_sine(rgp_diagnosis *d, const bool *may)
{
    const bool is_one_sine = d->sign.sine > A_SINE, is_cut = d->sign.cut > RGP_CUT, has_model = d->sign.explained > 0.0;
    const double part = d->chance[RGP_CAUSE_OUTSIDE] * own_part(d, is_one_sine, has_model);
    int best = -1;
    for (size_t i = 0; i < G_N_ELEMENTS(own_swings); i++) {
        const bool better = best < 0 || d->chance[own_swings[i]] > d->chance[own_swings[best]];
        best = may[own_swings[i]] && better ? (int)i : best;
    }
    const bool may_be_own = has_model ? (is_one_sine || is_cut) && d->sign.sensitivity > log(RGP_SENSITIVE) : is_cut;
    if (best >= 0 && !rgp_diagnosis_kept_up(d) && may_be_own) {
        d->chance[RGP_CAUSE_OUTSIDE] -= part;
        d->chance[own_swings[best]] += part;
    }
}

/* The swing of a loop whose 'predict' line misses, and that would not swing if it fitted, comes from that. */
static void blame_prediction(rgp_diagnosis *d, const bool *may)
{
    for (size_t i = 0; may[RGP_CAUSE_DEAD] && i < G_N_ELEMENTS(own_swings); i++) {
        const double chance = d->chance[own_swings[i]];
        d->chance[own_swings[i]] = 0.0;
        d->chance[RGP_CAUSE_DEAD] += chance;
    }
}

/* Of the loops by which the weights were taught, but for what falls, half as many could lack D as could have too much
 * P, since not every mechanism can: that says nothing of one that swings. */
static void level_d(rgp_diagnosis *d)
{
    double *p = &d->chance[RGP_CAUSE_P_MUCH], *missing = &d->chance[RGP_CAUSE_D_MISSING];
    const double both = *p + *missing, levelled = *p + TAUGHT * *missing;
    if (levelled > 0.0) {
        *missing = both * TAUGHT * *missing / levelled;
        *p = both - *missing;
    }
}

/* A swing from outside that is kept up, by a model that has it made by the loop. */
static bool is_mistaken(const rgp_diagnosis *d)
{
    return d->first == RGP_CAUSE_OUTSIDE && rgp_diagnosis_kept_up(d) && d->model.wave <= 0.0 &&
           d->sign.sensitivity > log(RGP_SENSITIVE);
}

bool diagnosis_chances(rgp_diagnosis *to, const rgp_loop_run *run)
{
    double input[DIAGNOSIS_INPUTS];
    bool may[RGP_CAUSES];
    const diagnosis_table *table = &diagnosis_tables[to->falls];
    diagnosis_inputs(&to->sign, table->mean, table->deviation, input);
    diagnosis_bears(to, run, may);
    diagnosis_shares(table->weight, input, may, to->chance);
    if (!to->falls) {
        level_d(to);
    }
    share_sine(to, may);
    if (run->predict) {
        blame_prediction(to, may);
    }
    put_likeliest(to);
    to->explained = is_mistaken(to) ? 0.0 : to->sign.explained;
    return may[to->first];
}

void rgp_diagnosis_weigh(rgp_diagnosis *d, const double *chance)
{
    memcpy(d->chance, chance, sizeof d->chance);
    put_likeliest(d);
    if (d->first == RGP_CAUSE_HEALTHY) { /* that something is the matter is known */
        d->first = d->second;
        d->second = RGP_CAUSE_HEALTHY;
    }
}

void rgp_diagnosis_leave_out(rgp_diagnosis *d, rgp_cause cause)
{
    const double rest = 1.0 - d->chance[cause];
    for (int c = 0; c < RGP_CAUSES && rest > 0.0; c++) {
        d->chance[c] = c == (int)cause ? 0.0 : d->chance[c] / rest;
    }
    put_likeliest(d);
}

#define SAME_PERIOD 0.03
#define FAR_LESS    4.0 /* times */
#define OTHER_GAINS 1.3
#define AT_LIMITS   0.1

static bool apart(float a, float b)
{
    return fmax((double)a, (double)b) > OTHER_GAINS * fmin((double)a, (double)b);
}

bool rgp_diagnosis_same_swing(const rgp_diagnosis *a, const rgp_pid_gains *of_a, const rgp_diagnosis *b,
                              const rgp_pid_gains *of_b)
{
    const bool swing = !a->unfit && !b->unfit && isfinite(a->period) && isfinite(b->period) && a->swing > a->band &&
                       b->swing > b->band && a->sign.limited < AT_LIMITS && b->sign.limited < AT_LIMITS;
    const bool as_large = fmax(a->swing, b->swing) < FAR_LESS * fmin(a->swing, b->swing);
    return swing && as_large && fabs(a->period / b->period - 1.0) < SAME_PERIOD &&
           (of_a->ki == 0.0f || apart(of_a->ki, of_b->ki)) && apart(of_a->kp, of_b->kp);
}

bool rgp_diagnosis_own_swing(const rgp_diagnosis *a, const rgp_pid_gains *of_a, const rgp_diagnosis *b,
                             const rgp_pid_gains *of_b)
{
    const rgp_diagnosis *greater = a->swing > b->swing ? a : b, *lesser = greater == a ? b : a;
    return !a->unfit && !b->unfit && isfinite(greater->period) && greater->swing > greater->band &&
           greater->swing > FAR_LESS * lesser->swing && apart(of_a->kp, of_b->kp);
}

void rgp_diagnosis_settle(rgp_diagnosis *d, rgp_cause cause)
{
    for (int c = 0; c < RGP_CAUSES; c++) {
        d->chance[c] = c == (int)cause ? 1.0 : 0.0;
    }
    d->second = d->first == cause ? d->second : d->first;
    d->first = cause;
}

const char *rgp_diagnosis_word(double chance)
{
    return chance >= 0.9 ? "sure" : chance >= 0.6 ? "likely" : chance >= 0.3 ? "possible" : NULL;
}
