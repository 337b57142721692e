/* rigpulse model: gain, lags and dead time of what a loop regulates, from a test of the output or from a recording. */
#include "subject.h"

#include "tool/picture.h"

#include "analysis/figures/process_figure.h"
#include "analysis/margins.h"
#include "analysis/suggestion.h"
#include "explain/describe.h"

#include <math.h>
#include <stdio.h>

#define SMALL          0.01 /* such a value and its interval have digits of their own */
#define USUAL_DECIMALS 3.0
#define MOST_DECIMALS  10.0

typedef struct model_options {
    subject_options of;
    char *picture;
    gboolean json;
} model_options;

/* ---- what comes out -------------------------------------------------------------------------------- */

static void put_number(GString *to, double x, const char *unit)
{
    rgp_describe_number(x, unit, to);
}

/* An interval that reaches a hundred times as far as its value, or as what it stands beside, tells nothing. */
static bool is_known(const rgp_estimate *e, double beside)
{
    return isfinite(e->low) && isfinite(e->high) && e->high - e->low < 100.0 * fmax(fabs(e->value), beside);
}

/* With as many digits as tell an interval of that width, where those of other numbers do not. */
static void put_digits(GString *to, double x, const char *unit, double width)
{
    const double decimals = width > 0.0 ? 1.0 - floor(log10(width)) : 0.0;
    if (decimals > USUAL_DECIMALS && decimals < MOST_DECIMALS) {
        g_string_append_printf(to, "%.*f%s%s", (int)decimals, x, *unit ? " " : "", unit);
    } else {
        put_number(to, x, unit);
    }
}

static void put_estimate(GString *to, const char *name, const rgp_estimate *e, const char *unit, double beside)
{
    const bool known = is_known(e, beside);
    const double width = known && e->value != 0.0 && fabs(e->value) < SMALL ? e->high - e->low : 0.0;
    g_string_append_printf(to, "  %-22s ", name);
    put_digits(to, e->value, unit, width);
    g_string_append(to, "   ");
    if (known) {
        put_digits(to, e->low, unit, width);
        g_string_append(to, " to ");
        put_digits(to, e->high, unit, width);
    } else {
        g_string_append(to, "not known");
    }
    g_string_append_c(to, '\n');
}

/* A dead time may be 0, and known all the same: beside the lag, or the step of the loop. */
static double beside_dead(const subject *s, const rgp_process *p)
{
    return (p->kind == RGP_PROCESS_INTEGRAL ? s->of.step_s : p->lag.value) / 100.0;
}

/* NULL: there is no line for it. */
static char *predict_line(const subject *s, const rgp_process *p)
{
    const bool bare = !*s->moved_unit || !*s->driven_unit; /* then a gain is written so, too */
    const rgp_plant plant = rgp_process_plant(p);
    const rgp_ahead line = rgp_plant_line(&plant, p->lag.value);
    g_autofree char *unit = subject_gain_unit(s, p);
    return p->kind != RGP_PROCESS_LAG ? NULL
                                      : g_strdup_printf("predict gain %.4g%s%s, lag %.4g s, dead %.4g s", line.gain,
                                                        bare ? "" : " ", bare ? "" : unit, line.lag, line.dead);
}

static double ultimate_gain(const subject *s, const rgp_process *p, double *period)
{
    rgp_plant plant = rgp_process_plant(p);
    const float little =
        (float)(1e-3 / (fabs(plant.gain) * (p->kind == RGP_PROCESS_INTEGRAL ? plant.dead + s->of.step_s : 1.0)));
    const rgp_margins m = rgp_margins_of(&plant, &(rgp_pid_gains){.kp = little}, s->of.step_s);
    *period = m.swing;
    return m.up * (double)little;
}

/* A loop with a proportional gain alone, at the edge. */
static void put_ultimate(GString *to, const subject *s, const rgp_process *p)
{
    double period;
    const double gain = ultimate_gain(s, p, &period);
    if (isfinite(gain)) {
        g_string_append_printf(to, "  with kp alone it would swing for ever at %s %s/%s, every ",
                               rgp_digits(gain, 3).text, *s->driven_unit ? s->driven_unit : "1",
                               *s->moved_unit ? s->moved_unit : "1");
        rgp_describe_span(period, to);
        g_string_append_c(to, '\n');
    }
}

static void put_swing(GString *to, const subject *s)
{
    const rgp_relay_answer *a = &s->swing;
    const double late = 180.0 - carg(-a->answer) * 180.0 / G_PI;
    g_string_append(to, "  the relay swung every ");
    rgp_describe_span(a->period * s->of.row_s, to);
    g_string_append_printf(to, " (%u periods, ±%s %%), by ", a->periods,
                           rgp_digits(100.0 * a->scatter / a->period, 2).text);
    put_number(to, a->height, s->moved_unit);
    g_string_append_printf(to, " to either side: there the answer is %.4g ±%s %s/%s, %.1f ±%s deg late\n",
                           cabs(a->answer), rgp_digits(a->gain_error, 1).text, *s->moved_unit ? s->moved_unit : "1",
                           *s->driven_unit ? s->driven_unit : "1", late,
                           rgp_digits(a->phase_error * 180.0 / G_PI, 1).text);
}

static const char *kind_words(const rgp_process *p)
{
    return p->begins ? "it begins like an integral behind a dead time; where it ends is not seen"
           : p->kind == RGP_PROCESS_INTEGRAL ? "it goes on and on, an integral behind a dead time"
           : p->kind == RGP_PROCESS_FALLING  ? "without its loop it falls from where it balances"
                                             : "a gain behind a lag and a dead time";
}

/* The rows of a process that falls: what holds it, how fast it goes, and where it stands by itself. */
static void put_falling(GString *to, const subject *s, const rgp_process *p)
{
    put_estimate(to, "falls by e in", &p->lag, "s", 0.0);
    put_estimate(to, "dead time", &p->dead, "s", beside_dead(s, p));
    g_string_append_printf(to, "  it balances at %.4g%s%s, and %s of '%s' moves that place by %s%s%s\n", p->rest,
                           *s->measured_unit ? " " : "", s->measured_unit, *s->driven_unit == '%' ? "1 %" : "one unit",
                           s->actuator, rgp_digits(-p->gain.value, 3).text, *s->moved_unit ? " " : "", s->moved_unit);
    g_string_append_printf(to, "  with a kp below %s %s/%s it falls\n", rgp_digits(1.0 / fabs(p->gain.value), 3).text,
                           *s->driven_unit ? s->driven_unit : "1", *s->moved_unit ? s->moved_unit : "1");
}

static double half_of(const rgp_estimate *e)
{
    return (e->high - e->low) / 2.0;
}

/* Of each load when it came, and how much more, or less, was as good as driven from then on. */
static void put_loads(GString *to, const subject *s, const rgp_process *p)
{
    for (size_t i = 0; i < p->loads; i++) {
        const rgp_process_load *load = &p->came[i];
        g_string_append(to, "  a load came at ");
        rgp_describe_span(s->of.begin_s + load->at.value, to);
        g_string_append_printf(to, " ±%s s and stayed, as if %s ±%s%s%s %s were driven\n",
                               rgp_digits(half_of(&load->at), 1).text, rgp_digits(fabs(load->size.value), 3).text,
                               rgp_digits(half_of(&load->size), 1).text, *s->driven_unit ? " " : "", s->driven_unit,
                               load->size.value < 0.0 ? "less" : "more");
    }
}

/* The lag besides the first one, or besides an integral. */
static void put_second(GString *to, const rgp_process *p)
{
    const bool integral = p->kind == RGP_PROCESS_INTEGRAL;
    const double glide = p->weight[RGP_PROCESS_GLIDE], on_and_on = p->weight[RGP_PROCESS_INTEGRAL] + glide,
                 two = p->weight[RGP_PROCESS_LAGS] + p->weight[RGP_PROCESS_TWIN];
    if (p->second > 0.0) {
        g_string_append_printf(to, "  a %s of about %s s is likely (%.0f %%)\n", integral ? "lag" : "second lag",
                               rgp_digits(p->second, 2).text,
                               100.0 * (integral ? glide / on_and_on : two / (1.0 - on_and_on)));
    }
}

static void print_model(const subject *s, const rgp_process *p, const GPtrArray *doubts)
{
    g_autoptr(GString) to = g_string_new(NULL);
    g_autofree char *unit = subject_gain_unit(s, p), *line = predict_line(s, p);
    const bool integral = p->kind == RGP_PROCESS_INTEGRAL;
    g_string_append_printf(to, "%s by %s, for '%s': %s; %zu readings of %.4g ms, 19 of 20 intervals\n", s->measured,
                           s->actuator, s->name, kind_words(p), s->of.readings, 1e3 * s->of.step_s);
    put_estimate(to, "gain", &p->gain, unit, 0.0);
    const bool falls = p->kind == RGP_PROCESS_FALLING;
    if (falls) {
        put_falling(to, s, p);
    } else {
        if (!integral) {
            put_estimate(to, "lags and dead time", &p->sum, "s", 0.0);
            put_estimate(to, "lag", &p->lag, "s", 0.0);
        }
        put_estimate(to, "dead time", &p->dead, "s", beside_dead(s, p));
    }
    put_second(to, p);
    g_string_append_printf(to, "  it explains %.1f %% of what %s; the noise of a reading is ", p->fit,
                           falls ? "its beginnings, one in each lag and a half, do not, where it moves most" : "moved");
    put_number(to, p->noise, s->moved_unit);
    g_string_append_c(to, '\n');
    if (doubts->len == 0) {
        put_loads(to, s, p);
    }
    if (p->misses) {
        g_string_append(to, "  what it leaves over still follows what was driven, ");
        rgp_describe_span(p->later, to);
        g_string_append(to, " behind it: it misses something\n");
    }
    if (p->spikes > 0) {
        g_string_append_printf(to, "  %zu reading%s (%s %%) left out as spikes: far from those around\n", p->spikes,
                               p->spikes == 1 ? "" : "s",
                               rgp_digits(100.0 * (double)p->spikes / (double)s->of.readings, 2).text);
    }
    if (doubts->len == 0 && !falls) {
        put_ultimate(to, s, p);
    }
    if (s->swung) {
        put_swing(to, s);
    }
    if (p->up != 0.0) {
        g_string_append_printf(to, "  above the middle of what was driven the gain is %s, below it %s\n",
                               rgp_digits(p->up, 3).text, rgp_digits(p->down, 3).text);
    }
    for (guint i = 0; i < doubts->len; i++) {
        g_string_append_printf(to, i == 0 ? "nothing is to be built on it:\n  %s\n" : "  %s\n",
                               (const char *)doubts->pdata[i]);
    }
    if (line && doubts->len == 0) {
        g_string_append_printf(to, "as a line of the loop:\n    %s\n", line);
    }
    fputs(to->str, stdout);
}

static json_t *estimate_json(const rgp_estimate *e, double beside)
{
    return json_pack("{s:f, s:o, s:o}", "value", e->value, "low", is_known(e, beside) ? json_real(e->low) : json_null(),
                     "high", is_known(e, beside) ? json_real(e->high) : json_null());
}

static json_t *loads_json(const subject *s, const rgp_process *p)
{
    json_t *all = json_array();
    for (size_t i = 0; i < p->loads; i++) {
        rgp_estimate at = p->came[i].at;
        at.value += s->of.begin_s;
        at.low += s->of.begin_s;
        at.high += s->of.begin_s;
        json_array_append_new(all, json_pack("{s:o, s:o}", "time_s", estimate_json(&at, 0.0), "size",
                                             estimate_json(&p->came[i].size, 0.0)));
    }
    return all;
}

static json_t *swing_json(const subject *s)
{
    const rgp_relay_answer *a = &s->swing;
    return s->swung ? json_pack("{s:i, s:f, s:f, s:f, s:f, s:f, s:f}", "periods", (int)a->periods, "period_s",
                                a->period * s->of.row_s, "scatter_s", a->scatter * s->of.row_s, "gain", cabs(a->answer),
                                "gain_error", a->gain_error, "late_deg", 180.0 - carg(-a->answer) * 180.0 / G_PI,
                                "late_error_deg", a->phase_error * 180.0 / G_PI)
                    : json_null();
}

static json_t *ultimate_json(const subject *s, const rgp_process *p)
{
    double period;
    const double gain = ultimate_gain(s, p, &period);
    return isfinite(gain) ? json_pack("{s:f, s:f}", "gain", gain, "period_s", period) : json_null();
}

static void print_json(const subject *s, const rgp_process *p, const GPtrArray *doubts)
{
    g_autofree char *unit = subject_gain_unit(s, p), *line = predict_line(s, p);
    json_t *all = json_array();
    for (guint i = 0; i < doubts->len; i++) {
        json_array_append_new(all, json_string(doubts->pdata[i]));
    }
    const bool integral = p->kind == RGP_PROCESS_INTEGRAL, falls = p->kind == RGP_PROCESS_FALLING;
    command_print_json(json_pack(
        "{s:s, s:s, s:s, s:b, s:s, s:o, s:o, s:o, s:o, s:f, s:f, s:o, s:I, s:b, s:o, s:o, s:o, s:o, s:o, s:s?}", "loop",
        s->name, "measured", s->measured, "kind",
        integral ? "integral"
        : falls  ? "falling"
                 : "lag",
        "begins", p->begins, "unit", unit, "gain", estimate_json(&p->gain, 0.0), "sum",
        falls ? json_null() : estimate_json(&p->sum, 0.0), "lag", integral ? json_null() : estimate_json(&p->lag, 0.0),
        "dead", estimate_json(&p->dead, beside_dead(s, p)), "fit", p->fit, "noise", p->noise, "loads", loads_json(s, p),
        "spikes", (json_int_t)p->spikes, "misses", p->misses, "up", p->up != 0.0 ? json_real(p->up) : json_null(),
        "down", p->down != 0.0 ? json_real(p->down) : json_null(), "ultimate",
        falls ? json_null() : ultimate_json(s, p), "relay", swing_json(s), "doubts", all, "line",
        doubts->len == 0 ? line : NULL));
}

static int tell(const subject *s, const model_options *o, const rgp_process *p)
{
    g_autoptr(GPtrArray) doubts = subject_doubts(s, p);
    if (o->json) {
        print_json(s, p, doubts);
    } else {
        print_model(s, p, doubts);
    }
    if (o->picture) {
        const rgp_process_picture picture = {s->measured, s->measured_unit, s->moved_unit,
                                             s->actuator, s->driven_unit,   s->of.begin_s};
        const rgp_process_data data = subject_data(s);
        g_autoptr(GString) script = rgp_process_script(p, &data, &picture, o->picture);
        g_autoptr(GError) error = NULL;
        if (!picture_run(script, o->picture, &error)) {
            return command_refuse(s->self, "%s", error->message);
        }
    }
    return doubts->len > 0 ? EXIT_FAULT : EXIT_DONE;
}

/* ---- the command ----------------------------------------------------------------------------------- */

static int model_loop(const command *self, const model_options *o, const char *path, const char *loop)
{
    subject s;
    rgp_process p;
    int status = EXIT_USAGE;
    if (!picture_fits(self, o->picture)) {
        return EXIT_USAGE;
    }
    if (subject_find(&s, self, &o->of, path, loop) && subject_take(&s) && subject_fit(&s, &p)) {
        status = tell(&s, o, &p);
        rgp_process_clear(&p);
    }
    status = s.interrupted ? EXIT_DONE : status;
    subject_clear(&s);
    return status;
}

static int run_model(const command *self, int argc, char **argv)
{
    model_options o = {.picture = NULL};
    const GOptionEntry entries[] = {
        SUBJECT_ENTRIES(&o.of),
        {"output", 'o', 0, G_OPTION_ARG_FILENAME, &o.picture, "draw it, as .png or .svg", "PICTURE"},
        PORT_ENTRIES,
        {"json", 0, 0, G_OPTION_ARG_NONE, &o.json, "for a program to read", NULL},
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    int status;
    if (command_options(self, entries, &argc, &argv, 2, 2, &status)) {
        status = model_loop(self, &o, argv[1], argv[2]);
    }
    subject_options_clear(&o.of);
    g_free(o.picture);
    return status;
}

const command command_model = {"model", "FILE LOOP",
                               "finds gain, lag and dead time of what a loop regulates, by a test or from a recording",
                               "rigpulse model boiler.rig steam --at 40% --size 20% --each 5min --fast", run_model};
