/* A proposal in words: the line to paste, and one table of margins and answers, suggested beside standing beside
 * tried. */
#include "proposal.h"

#include "explain/describe.h"

#include <math.h>
#include <stdio.h>
#include <string.h>

enum { COLUMN_TRIED = PROPOSAL_SIDES, COLUMNS };

/* ---- numbers --------------------------------------------------------------------------------------- */

static void put_number(GString *to, double x, const char *unit)
{
    rgp_describe_estimate(x, to);
    g_string_append_printf(to, "%s%s", *unit ? " " : "", unit);
}

/* "0.4 K, 0.3 to 0.5", or "0.4 K" where both ends would be written so, too. */
static void put_spread(GString *to, const rgp_spread *s, const char *unit)
{
    if (s->of == 0) {
        g_string_append_c(to, '-');
        return;
    }
    g_autoptr(GString) low = g_string_new(NULL), high = g_string_new(NULL);
    rgp_describe_estimate(s->low, low);
    rgp_describe_estimate(s->high, high);
    put_number(to, s->median, unit);
    if (strcmp(low->str, high->str) != 0) {
        g_string_append_printf(to, ", %s to %s", low->str, high->str);
    }
}

/* ---- rows ------------------------------------------------------------------------------------------ */

typedef struct row {
    char *name, *cell[COLUMNS];
} row;

static void clear_row(void *self)
{
    row *r = self;
    g_free(r->name);
    for (int i = 0; i < COLUMNS; i++) {
        g_free(r->cell[i]);
    }
}

static row *add_row(GArray *to, const char *name)
{
    const row r = {.name = g_strdup(name)};
    g_array_append_val(to, r);
    return &g_array_index(to, row, to->len - 1);
}

static const struct {
    const char *name, *unit, *any, *worst; /* `any`: where there is no end to it */
    size_t offset;
} margins[] = {{"sensitivity", "", "", "at most", offsetof(rgp_margins, sensitivity)},
               {"gain may grow", "times", "any", "at least", offsetof(rgp_margins, up)},
               {"gain may shrink to", "of it", "", "at most", offsetof(rgp_margins, down)},
               {"phase margin", "deg", "any", "at least", offsetof(rgp_margins, phase)},
               {"delay margin", "s", "any", "at least", offsetof(rgp_margins, delay)}};

static double margin_of(const rgp_margins *m, size_t offset)
{
    double value;
    memcpy(&value, (const char *)m + offset, sizeof value);
    return value;
}

static char *margin_cell(const proposal_side *side, size_t i)
{
    const double value = margin_of(&side->margins, margins[i].offset),
                 worst = margin_of(&side->worst, margins[i].offset);
    GString *to = g_string_new(NULL);
    if (!side->margins.stable) {
        g_string_append(to, i == 0 ? "not stable" : "-");
        return g_string_free(to, FALSE);
    }
    if (isinf(value)) {
        g_string_append(to, margins[i].any);
    } else {
        put_number(to, value, margins[i].unit);
    }
    if (!side->worst.stable) {
        g_string_append(to, i == 0 ? ", not surely stable" : "");
    } else if (isfinite(worst)) {
        g_string_append_printf(to, ", %s %s", margins[i].worst, rgp_digits(worst, 3).text);
    }
    return g_string_free(to, FALSE);
}

static void add_margins(const proposal *p, GArray *to)
{
    for (size_t i = 0; i < G_N_ELEMENTS(margins); i++) {
        const bool shown = margins[i].offset != offsetof(rgp_margins, down) || p->side[0].worst.down > 0.0 ||
                           p->side[1].worst.down > 0.0;
        row *r = shown ? add_row(to, margins[i].name) : NULL;
        for (int k = 0; shown && k < PROPOSAL_SIDES; k++) {
            r->cell[k] = margin_cell(&p->side[k], i);
        }
    }
}

/* `test`: of which it is a figure, or both. */
static const struct {
    const char *name, *unit;
    int test; /* PROPOSAL_TESTS: of both */
    size_t offset;
} figures[] = {{"rise", "s", PROPOSAL_STEP, offsetof(rgp_response, rise)},
               {"overshoot", "%", PROPOSAL_STEP, offsetof(rgp_response, overshoot)},
               {"peak", "m", PROPOSAL_PUSH, offsetof(rgp_response, peak)},
               {"settled after", "s", PROPOSAL_TESTS, offsetof(rgp_response, settling)},
               {"effort", "o", PROPOSAL_TESTS, offsetof(rgp_response, effort)}};

static const char *unit_of(const proposal *p, const char *unit)
{
    return strcmp(unit, "m") == 0 ? p->t.unit : strcmp(unit, "o") == 0 ? p->t.drive_unit : unit;
}

static bool is_settling(size_t i)
{
    return figures[i].offset == offsetof(rgp_response, settling);
}

static char *predicted_cell(const proposal *p, const rgp_rehearsed *r, size_t i)
{
    GString *to = g_string_new(NULL);
    const rgp_spread spread = rgp_rehearsed_figure(r, figures[i].offset);
    if (figures[i].offset == offsetof(rgp_response, overshoot) && spread.of == 0) {
        g_string_append(to, r->settled > 0 ? "none" : "-");
    } else if (is_settling(i) && r->settled == 0) {
        g_string_append(to, "it does not settle");
    } else {
        put_spread(to, &spread, unit_of(p, figures[i].unit));
    }
    if (is_settling(i) && r->settled > 0 && r->settled < RGP_REHEARSALS) {
        g_string_append_printf(to, " (%u of %u)", r->settled, RGP_REHEARSALS);
    }
    return g_string_free(to, FALSE);
}

static char *tried_cell(const proposal *p, const tune_try *one, size_t i)
{
    GString *to = g_string_new(NULL);
    double value;
    memcpy(&value, (const char *)&one->response + figures[i].offset, sizeof value);
    if (is_settling(i) && (one->stopped || one->response.verdict != RGP_VERDICT_SETTLED)) {
        g_autofree char *verdict = tune_verdict_text(&p->t, one);
        g_string_append(to, verdict);
    } else if (one->stopped || isnan(value)) {
        g_string_append(to, figures[i].offset == offsetof(rgp_response, overshoot) && !one->stopped ? "none" : "-");
    } else {
        put_number(to, value, unit_of(p, figures[i].unit));
    }
    return g_string_free(to, FALSE);
}

static void add_answers(const proposal *p, GArray *to)
{
    for (int test = 0; test < PROPOSAL_TESTS; test++) {
        g_autoptr(GString) head = g_string_new(test == PROPOSAL_STEP ? "a step of " : "a push of ");
        put_number(head, p->size[test], test == PROPOSAL_STEP ? p->t.unit : p->t.drive_unit);
        add_row(to, head->str);
        for (size_t i = 0; i < G_N_ELEMENTS(figures); i++) {
            if (figures[i].test != test && figures[i].test != PROPOSAL_TESTS) {
                continue;
            }
            row *r = add_row(to, figures[i].name);
            for (int k = 0; k < PROPOSAL_SIDES; k++) {
                r->cell[k] = predicted_cell(p, p->side[k].of[test], i);
            }
            r->cell[COLUMN_TRIED] = p->tried[test] ? tried_cell(p, p->tried[test], i) : NULL;
        }
    }
}

/* ---- the table ------------------------------------------------------------------------------------- */

static void print_table(const proposal *p, const GArray *all)
{
    static const int order[COLUMNS] = {PROPOSAL_SUGGESTED, COLUMN_TRIED, PROPOSAL_STANDING};
    const char *const heads[COLUMNS] = {[PROPOSAL_SUGGESTED] = "suggested",
                                        [COLUMN_TRIED] = p->tried[0] ? "tried" : NULL,
                                        [PROPOSAL_STANDING] = "as it stands"};
    glong width[COLUMNS];
    for (int c = 0; c < COLUMNS; c++) {
        width[c] = heads[c] ? g_utf8_strlen(heads[c], -1) : 0;
        for (guint i = 0; i < all->len; i++) {
            const char *cell = g_array_index(all, row, i).cell[c];
            width[c] = MAX(width[c], cell ? g_utf8_strlen(cell, -1) : 0);
        }
    }
    for (guint i = 0; i <= all->len; i++) {
        const row *r = i == 0 ? NULL : &g_array_index(all, row, i - 1);
        g_autoptr(GString) line = g_string_new(NULL);
        g_string_append_printf(line, "  %-20s", r ? r->name : "");
        for (int k = 0; k < COLUMNS; k++) {
            const char *cell = r ? r->cell[order[k]] : heads[order[k]];
            const glong pad = heads[order[k]] ? width[order[k]] + 3 - (cell ? g_utf8_strlen(cell, -1) : 0) : 0;
            g_string_append_printf(line, "%s%*s", cell ? cell : "", (int)pad, "");
        }
        g_strchomp(line->str);
        puts(line->str);
    }
}

/* ---- the sentence ---------------------------------------------------------------------------------- */

static const char *const kept_back[] = {
    [RGP_BOUND_RULE] = "the rule itself asks for no more",
    [RGP_BOUND_SENSITIVITY] = "greater gains would make it more sensitive than is wanted",
    [RGP_BOUND_OFF] = "greater gains would make it too sensitive where the mechanism is a fifth off",
    [RGP_BOUND_DELAY] = "greater gains would bear too little delay",
    [RGP_BOUND_NOISE] = "greater gains would let the noise of the readings rattle the output",
};

/* The ends of what holds up a process that falls: by its gain, by its output, and by the pace of its loop. */
static void print_limits(const proposal *p)
{
    const rgp_plant *plant = &p->found.plant;
    const rgp_pid_config *pid = &p->side[PROPOSAL_SUGGESTED].pid;
    const double most = fmin((double)pid->high - p->at, p->at - (double)pid->low),
                 lean = plant->gain * most * exp(-(plant->dead + p->s.of.step_s) / plant->lag),
                 step = rgp_falling_step(plant);
    const char *unit = p->s.moved_unit;
    const double kp = (double)pid->gain.kp * plant->gain, push = p->size[PROPOSAL_PUSH];
    printf("There is no integral, so it leans %s %% farther than it is asked to, and a push of %s %s keeps it off by "
           "%s %s.\n",
           rgp_digits(100.0 / (kp - 1.0), 2).text, rgp_digits(push, 3).text, p->s.driven_unit,
           rgp_digits(plant->gain * push / (kp - 1.0), 2).text, unit);
    printf("With a %s below %s %s it falls. '%s' can catch %s %s from where it balances, or %s %s/s when it is "
           "there, and no more. The loop may step each %s ms at most.\n",
           tune_gain_word(&p->t, 0), rgp_digits(1.0 / plant->gain / tune_gain_scale(&p->t, 0), 3).text,
           tune_gain_unit(&p->t, 0), p->s.actuator, rgp_digits(lean, 3).text, unit,
           rgp_digits(lean / plant->lag, 3).text, unit, rgp_digits(1e3 * step, 3).text);
}

#define LEAVES 0.5 /* of the dead time: a 'predict' line that leaves more of it misses */
#define OFF    1.3 /* times the gain */

/* Of a 'predict' line that is not that of the model: it comes before any gains. */
static void print_line(const proposal *p)
{
    const rgp_stand on = {p->found.plant, p->found.ahead, p->s.of.step_s};
    const rgp_ahead is = rgp_plant_line(&on.plant, on.ahead.lag);
    const double gain = is.gain / on.ahead.gain;
    if (p->predict && (rgp_stand_waits(&on) > LEAVES * is.dead || !(gain < OFF && gain > 1.0 / OFF))) {
        printf("Its 'predict' line misses: by the model the dead time is %s s, not %s s, and the gain %s of what "
               "that line has. The line that 'rigpulse model' prints comes first, and then other gains than these.\n",
               rgp_digits(is.dead, 3).text, rgp_digits(on.ahead.dead, 3).text, rgp_digits(gain, 3).text);
    }
}

static void print_character(const proposal *p)
{
    const proposal_side *side = &p->side[PROPOSAL_SUGGESTED];
    const rgp_spread beyond = rgp_rehearsed_figure(side->of[PROPOSAL_STEP], offsetof(rgp_response, overshoot)),
                     back = rgp_rehearsed_figure(side->of[PROPOSAL_PUSH], offsetof(rgp_response, settling));
    g_autoptr(GString) to = g_string_new(NULL);
    if (p->found.plant.kind == RGP_PROCESS_FALLING) {
        puts("Greater gains would let it swing sooner, lesser ones let it fall sooner.");
        print_limits(p);
        return;
    }
    g_string_append(to, beyond.of == 0 || beyond.median < 1.0 ? "It goes to a new setpoint without going beyond it"
                        : beyond.median < 10.0                ? "It goes a little beyond a new setpoint"
                                               : "It goes well beyond a new setpoint (a smaller 'weight' "
                                                 "takes that away)");
    if (back.of > 0) {
        g_string_append(to, ", and has made good a push after ");
        rgp_describe_span(back.median, to);
    }
    g_string_append_printf(to, "; %s.", kept_back[p->found.bound]);
    puts(to->str);
    print_line(p);
}

static void put_estimate(GString *to, const char *name, const rgp_estimate *e, const char *unit)
{
    g_string_append_printf(to, "%s %.4g%s%s (%.4g to %.4g)", name, e->value, *unit ? " " : "", unit, e->low, e->high);
}

static void print_model(const proposal *p)
{
    const bool integral = p->p.kind == RGP_PROCESS_INTEGRAL;
    g_autofree char *unit = subject_gain_unit(&p->s, &p->p);
    g_autoptr(GString) to = g_string_new(NULL);
    put_estimate(to, "gain", &p->p.gain, unit);
    if (!integral) {
        put_estimate(to, ", lag", &p->p.lag, "s");
    }
    put_estimate(to, ", dead time", &p->p.dead, "s");
    if (rgp_process_has_two(p->found.plant.kind)) {
        g_string_append_printf(to, ", a %s of about %s s", integral ? "lag" : "second lag",
                               rgp_digits(p->found.plant.second, 2).text);
    }
    printf("%s by %s, for '%s': %s%s; the loop steps each %.4g ms\n", p->s.measured, p->s.actuator, p->s.name,
           p->p.begins                        ? "it begins like an integral, "
           : integral                         ? "an integral, "
           : p->p.kind == RGP_PROCESS_FALLING ? "it falls without its loop, "
                                              : "",
           to->str, 1e3 * p->s.of.step_s);
}

/* "pid kp 24.9 %/K, ki 0.21 %/K/s, kd 0", with the settings that are to be others. */
static char *gains_line(const proposal *p)
{
    const proposal_side *side = &p->side[PROPOSAL_SUGGESTED];
    g_autofree char *settings = tune_settings_text(&p->t, side->gain);
    GString *to = g_string_new("pid ");
    for (uint32_t i = 0; i < p->t.gains; i++) {
        const char *unit = side->gain[i] != 0.0 ? tune_gain_unit(&p->t, i) : "";
        g_string_append_printf(to, "%s%s %s%s%s", i ? ", " : "", tune_gain_word(&p->t, i),
                               rgp_digits(side->gain[i], 3).text, *unit ? " " : "", unit);
    }
    g_string_append_printf(to, "%s%s", *settings ? ", " : "", settings);
    return g_string_free(to, FALSE);
}

void proposal_print(const proposal *p)
{
    g_autoptr(GArray) all = g_array_new(FALSE, TRUE, sizeof(row));
    g_autofree char *line = gains_line(p);
    g_array_set_clear_func(all, clear_row);
    print_model(p);
    if (p->found.plant.kind == RGP_PROCESS_FALLING) {
        printf("those with which it bears most, whatever is wanted\n    %s\n\n", line);
    } else {
        printf("%s, %s: a sensitivity of at most %g\n    %s\n\n", p->want->word, p->want->says, p->want->sensitivity,
               line);
    }
    add_margins(p, all);
    add_answers(p, all);
    print_table(p, all);
    printf("\n'at most' and 'at least': with gain, lag and dead time each off by its interval, and by a fifth at "
           "least. Answers "
           "are of %u\nrehearsals on the model, each with noise of its own: the median, and what one in twenty is "
           "below and above.\n",
           RGP_REHEARSALS);
    print_character(p);
    if (p->led) {
        puts("Its setpoint is worked out from other values: in a rehearsal it stands still, when it is tried it does "
             "not.");
    }
    if (proposal_broken(p)) {
        printf("The trial was broken off: %s\n", proposal_broken(p)->stopped);
    }
}

/* ---- for a program --------------------------------------------------------------------------------- */

static json_t *number_json(double x)
{
    return isfinite(x) ? json_real(x) : json_null();
}

static json_t *margins_json(const rgp_margins *m)
{
    json_t *to = json_pack("{s:b}", "stable", m->stable);
    for (size_t i = 0; i < G_N_ELEMENTS(margins); i++) {
        json_object_set_new(to, margins[i].name, number_json(margin_of(m, margins[i].offset)));
    }
    return to;
}

static json_t *spread_json(const rgp_rehearsed *r, size_t offset)
{
    const rgp_spread s = rgp_rehearsed_figure(r, offset);
    return json_pack("{s:o, s:o, s:o, s:i}", "low", number_json(s.low), "median", number_json(s.median), "high",
                     number_json(s.high), "of", (int)s.of);
}

static const char *const tests[PROPOSAL_TESTS] = {"step", "push"};

static json_t *side_json(const proposal *p, const proposal_side *side)
{
    json_t *to = json_object(), *gains = json_object();
    for (uint32_t i = 0; i < p->t.gains + p->t.settings; i++) {
        json_object_set_new(gains, tune_gain_word(&p->t, i), number_json(side->gain[i]));
    }
    json_object_set_new(to, "gains", gains);
    json_object_set_new(to, "margins", margins_json(&side->margins));
    json_object_set_new(to, "worst", margins_json(&side->worst));
    for (int k = 0; k < PROPOSAL_TESTS; k++) {
        json_t *test = json_pack("{s:f, s:i}", "size", p->size[k], "settled", (int)side->of[k]->settled);
        for (size_t i = 0; i < G_N_ELEMENTS(figures); i++) {
            if (figures[i].test == k || figures[i].test == PROPOSAL_TESTS) {
                json_object_set_new(test, figures[i].name, spread_json(side->of[k], figures[i].offset));
            }
        }
        json_object_set_new(to, tests[k], test);
    }
    return to;
}

/* The trials as they are in 'tune --json', by their figures here; NULL: there were none. */
static json_t *tried_json(const proposal *p)
{
    json_t *to = p->tried[0] ? json_object() : NULL;
    for (int k = 0; to && k < PROPOSAL_TESTS; k++) {
        g_autofree char *verdict = tune_verdict_text(&p->t, p->tried[k]);
        json_t *test = json_pack("{s:s}", "verdict", verdict);
        for (size_t i = 0; i < G_N_ELEMENTS(figures); i++) {
            double value;
            memcpy(&value, (const char *)&p->tried[k]->response + figures[i].offset, sizeof value);
            if (figures[i].test == k || figures[i].test == PROPOSAL_TESTS) {
                json_object_set_new(test, figures[i].name, number_json(p->tried[k]->stopped ? (double)NAN : value));
            }
        }
        json_object_set_new(to, tests[k], test);
    }
    return to;
}

void proposal_print_json(const proposal *p)
{
    g_autofree char *line = gains_line(p);
    command_print_json(json_pack("{s:s, s:s, s:s, s:f, s:o, s:o, s:o?}", "loop", p->s.name, "want", p->want->word,
                                 "line", line, "step_s", p->s.of.step_s, "suggested",
                                 side_json(p, &p->side[PROPOSAL_SUGGESTED]), "standing",
                                 side_json(p, &p->side[PROPOSAL_STANDING]), "tried", tried_json(p)));
}
