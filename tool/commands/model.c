/* rigpulse model: gain, lags and dead time of what a loop regulates, from a test of the output or from a recording. */
#include "tool/command.h"
#include "tool/names.h"
#include "tool/picture.h"
#include "tool/port_option.h"
#include "tool/reading.h"
#include "tool/rigfile.h"
#include "tool/stand.h"

#include "analysis/figures/process_figure.h"
#include "explain/describe.h"
#include "rigpulse/edit.h"
#include "runtime/interrupt.h"
#include "runtime/moment.h"

#include <math.h>
#include <stdio.h>
#include <string.h>

#define EACH_S     20.0 /* of a test: how long each piece is */
#define SHARE      0.1  /* of the travel: how far it goes */
#define FIT_LEAST  80.0 /* percent; a model that fits less is called bad */
#define NOISES     6.0  /* that the answer has to move at least */
#define WIDE_GAIN  0.3  /* of the gain: half the width of its interval from which on it is not known */
#define WIDE_LAG   0.5  /* likewise of the logarithm of the lag */
#define LAG_TICKS  3.0  /* a lag that is shorter is too fast for the tick */
#define LOAD_SHARE 0.5  /* of the weight: from there on a load that walks is what was seen */

typedef struct model_options {
    char *from, *begin, *until, *at, *size, *each, *seed, *picture;
    gboolean fast, json;
} model_options;

typedef struct modelling {
    const command *self;
    const model_options *o;
    rgp_rig *rig;
    const rgp_image_loop *loop;
    const char *name, *measured, *actuator; /* of the loop, of what it measures, of what it drives */
    const char *measured_unit, *driven_unit;
    const char *moved_unit; /* of differences of what is measured: "K" of temperatures */
    double *driven, *value; /* by row */
    size_t rows;
    double tick, begin_s;
} modelling;

static bool refuse(const modelling *m, const char *format, ...) G_GNUC_PRINTF(2, 3);

static bool refuse(const modelling *m, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    g_autofree char *text = g_strdup_vprintf(format, arguments);
    va_end(arguments);
    command_refuse(m->self, "%s", text);
    return false;
}

/* ---- the loop -------------------------------------------------------------------------------------- */

static bool find_loop(modelling *m, const char *path, const char *name)
{
    const rgp_image_header *image = m->rig->image;
    uint32_t loop;
    if (!names_loop_or_refuse(m->self, image, path, name, &loop)) {
        return false;
    }
    m->loop = (const rgp_image_loop *)rgp_image_at(image, RGP_SECTION_LOOPS) + loop;
    const uint32_t actuator = rgp_image_actuator_slot(image, m->loop->actuator), measured = m->loop->measured;
    if (measured & RGP_REF_CONSTANT || !rgp_image_name_of(image, RGP_NAME_SLOT, measured, 0)) {
        return refuse(m, "what '%s' measures has no name: put 'signal it = ...' before the loop, and measure 'it'",
                      name);
    }
    m->name = name;
    m->measured = rgp_image_text(image, RGP_NAME_SLOT, measured, 0);
    m->measured_unit = rgp_image_unit(image, RGP_NAME_SLOT, measured, 0);
    rgp_threshold value;
    m->moved_unit = rgp_rig_threshold_template(m->rig, m->measured, &value) ? value.margin.unit : m->measured_unit;
    m->actuator = rgp_image_text(image, RGP_NAME_SLOT, actuator, 0);
    m->driven_unit = rgp_image_unit(image, RGP_NAME_SLOT, actuator, 0);
    return true;
}

/* ---- what was recorded ----------------------------------------------------------------------------- */

/* The rows of a history from one to before another. */
static bool take_rows(modelling *m, const rgp_history *h, uint64_t from, uint64_t to)
{
    const rgp_image_header *image = rgp_history_image(h);
    const int32_t measured = rgp_image_find(image, RGP_FIND_SLOT, m->measured),
                  driven = rgp_image_find(image, RGP_FIND_SLOT, m->actuator);
    const int32_t y = measured < 0 ? -1 : rgp_history_slot(h, (uint32_t)measured),
                  u = driven < 0 ? -1 : rgp_history_slot(h, (uint32_t)driven);
    if (y < 0 || u < 0) {
        return refuse(m, "the recording does not hold '%s'", y < 0 ? m->measured : m->actuator);
    }
    m->rows = (size_t)(to - from);
    m->tick = image->tick_us / 1e6;
    m->begin_s = (double)rgp_history_time_us(h, from) / 1e6;
    m->driven = g_malloc_n(m->rows + 1, sizeof(double));
    m->value = g_malloc_n(m->rows + 1, sizeof(double));
    for (uint64_t row = from; row < to; row++) {
        const bool usable = rgp_usable(rgp_history_quality(h, (uint32_t)y, row));
        m->driven[row - from] = (double)rgp_history_value(h, (uint32_t)u, row);
        m->value[row - from] = usable ? (double)rgp_history_value(h, (uint32_t)y, row) : (double)NAN;
    }
    return true;
}

static bool find_moment(const modelling *m, const char *option, const char *text, const rgp_history *h, uint64_t *row)
{
    double seconds;
    if (text && !rgp_moment_of(h, text, &seconds)) {
        return refuse(m, "%s %s: it is no time, and the recording has no such mark and no such line that fired", option,
                      text);
    }
    *row = text ? rgp_history_find(h, (uint64_t)llround(fmax(0.0, seconds) * 1e6)) : *row;
    return true;
}

static bool read_recording(modelling *m)
{
    g_autoptr(GError) error = NULL;
    rgp_recording *r = reading_whole(m->o->from, &error);
    if (!r) {
        return refuse(m, "%s", error->message);
    }
    uint64_t from = 0, to = r->rows;
    bool sound = find_moment(m, "--begin", m->o->begin, r->history, &from) &&
                 find_moment(m, "--until", m->o->until, r->history, &to);
    if (sound && to <= from) {
        sound = refuse(m, "there is nothing between --begin and --until");
    }
    sound = sound && take_rows(m, r->history, from, to);
    rgp_recording_free(r);
    return sound;
}

/* ---- a test ---------------------------------------------------------------------------------------- */

static bool parse(const modelling *m, const char *option, const char *text, const char *unit, double *to)
{
    const char *why;
    return !text || rgp_quantity_parse(text, unit, to, &why) || refuse(m, "%s %s: %s", option, text, why);
}

/* Up, down, down, up, and back where it began: what drifts evenly takes itself away. */
static bool run_test(modelling *m)
{
    static const double way[] = {0.0, 1.0, -1.0, -1.0, 1.0, 0.0};
    const uint32_t which = m->loop->actuator;
    const rgp_image_actuator *a =
        (const rgp_image_actuator *)rgp_image_at(m->rig->image, RGP_SECTION_ACTUATORS) + which;
    g_autoptr(GError) error = NULL;
    double at = (double)(a->rest > a->low && a->rest < a->high ? a->rest : (a->low + a->high) / 2.0f),
           size = SHARE * (double)(a->high - a->low), each = EACH_S;
    uint64_t seed;
    stand s;
    if (!parse(m, "--at", m->o->at, m->driven_unit, &at) || !parse(m, "--size", m->o->size, m->driven_unit, &size) ||
        !parse(m, "--each", m->o->each, "s", &each) || !command_seed(m->self, m->o->seed, &seed)) {
        return false;
    }
    if (!(each > 0.0 && each < 1e6) || !(size > 0.0) || at - size < (double)a->low || at + size > (double)a->high) {
        return refuse(
            m, "from --at %g %s by --size %g to either side, each for %g s: that does not lie within %g to %g %s", at,
            m->driven_unit, size, each, (double)a->low, (double)a->high, m->driven_unit);
    }
    if (!rigfile_fits_port(m->self, m->rig, m->o->fast, m->o->seed != NULL, false)) {
        return false;
    }
    bool sound = stand_begin(&s, m->rig, seed, m->o->fast, &error) || refuse(m, "%s", error->message);
    if (sound) {
        stand_hand(&s, which, at);
        stand_tick_for(&s, 2.0 * each);
        stand_note(&s);
        for (size_t i = 0; i < G_N_ELEMENTS(way) && !interrupt_asked(); i++) {
            stand_hand(&s, which, at + way[i] * size);
            stand_tick_for(&s, each);
        }
        stand_release(&s, which);
        sound = interrupt_asked() ? refuse(m, "it was stopped, and rests") : take_rows(m, s.history, 0, s.rows);
    }
    stand_end(&s);
    return sound;
}

/* ---- what comes out -------------------------------------------------------------------------------- */

static void put_number(GString *to, double x, const char *unit)
{
    rgp_describe_number(x, unit, to);
}

/* An interval that reaches a hundred times as far as its value tells nothing. */
static bool is_known(const rgp_estimate *e)
{
    return isfinite(e->low) && isfinite(e->high) && e->high - e->low < 100.0 * fabs(e->value) + 1e-9;
}

static void put_estimate(GString *to, const char *name, const rgp_estimate *e, const char *unit)
{
    g_string_append_printf(to, "  %-22s ", name);
    put_number(to, e->value, unit);
    g_string_append(to, "   ");
    if (is_known(e)) {
        put_number(to, e->low, unit);
        g_string_append(to, " to ");
        put_number(to, e->high, unit);
    } else {
        g_string_append(to, "not known");
    }
    g_string_append_c(to, '\n');
}

static char *gain_unit(const modelling *m, const rgp_process *p)
{
    const bool integral = p->kind == RGP_PROCESS_INTEGRAL;
    return g_strdup_printf("%s/%s%s", *m->moved_unit ? m->moved_unit : "1", *m->driven_unit ? m->driven_unit : "1",
                           integral ? "/s" : "");
}

/* Why nothing is to be built on it; empty: something is. */
static GPtrArray *doubts_of(const modelling *m, const rgp_process *p)
{
    GPtrArray *all = g_ptr_array_new_with_free_func(g_free);
    if (p->fit < FIT_LEAST) {
        g_ptr_array_add(all,
                        g_strdup_printf("it is a bad model: it leaves %.0f %% of what moved unexplained; is there a "
                                        "friction, a play, or something else that drives?",
                                        100.0 - p->fit));
    }
    if (p->excursion < NOISES * p->noise) {
        g_ptr_array_add(all,
                        g_strdup_printf("the answer moved by %.2g noises of a reading, at least %g are needed: let it "
                                        "go farther (--size)",
                                        p->excursion / fmax(p->noise, 1e-300), NOISES));
    }
    if ((p->gain.high - p->gain.low) / 2.0 > WIDE_GAIN * fabs(p->gain.value)) {
        g_ptr_array_add(all, g_strdup("the gain is not known to a third: record for longer, or let it go farther"));
    }
    if (p->kind != RGP_PROCESS_INTEGRAL && !(log(p->lag.high / p->lag.low) / 2.0 <= WIDE_LAG)) {
        g_ptr_array_add(all,
                        g_strdup("the lag is not known to a half: hold each piece of the test for longer (--each)"));
    }
    if (p->kind != RGP_PROCESS_INTEGRAL && p->lag.value < LAG_TICKS * m->tick) {
        g_ptr_array_add(all, g_strdup_printf("the lag is shorter than three ticks of %g ms: too fast for this tick",
                                             1e3 * m->tick));
    }
    if (p->load > LOAD_SHARE) {
        g_ptr_array_add(all,
                        g_strdup("a load that wanders is in it, so its intervals are too narrow: take pulses to and "
                                 "fro, and several of them"));
    }
    return all;
}

/* A lesser lag is shared out between the greater one and the dead time (the half rule: Skogestad 2003). NULL: there is
 * no line for it. */
static char *predict_line(const modelling *m, const rgp_process *p)
{
    const bool two = p->weight[RGP_PROCESS_LAGS] > p->weight[RGP_PROCESS_LAG];
    const bool bare = !*m->moved_unit || !*m->driven_unit; /* then a gain is written so, too */
    const double half = two ? p->second / 2.0 : 0.0;
    g_autofree char *unit = gain_unit(m, p);
    return p->kind == RGP_PROCESS_INTEGRAL
               ? NULL
               : g_strdup_printf("predict gain %.4g%s%s, lag %.4g s, dead %.4g s", p->gain.value, bare ? "" : " ",
                                 bare ? "" : unit, p->lag.value + half, p->dead.value + half);
}

static void print_model(const modelling *m, const rgp_process *p, const GPtrArray *doubts)
{
    g_autoptr(GString) to = g_string_new(NULL);
    g_autofree char *unit = gain_unit(m, p), *line = predict_line(m, p);
    const bool integral = p->kind == RGP_PROCESS_INTEGRAL;
    g_string_append_printf(
        to, "%s by %s, for '%s': %s; %zu readings of %g ms, 19 of 20 intervals\n", m->measured, m->actuator, m->name,
        integral ? "it goes on and on, an integral behind a dead time" : "a gain behind a lag and a dead time", m->rows,
        1e3 * m->tick);
    put_estimate(to, "gain", &p->gain, unit);
    if (!integral) {
        put_estimate(to, "lags and dead time", &p->sum, "s");
        put_estimate(to, "lag", &p->lag, "s");
    }
    put_estimate(to, "dead time", &p->dead, "s");
    if (!integral && p->weight[RGP_PROCESS_LAGS] > 0.5) {
        g_string_append_printf(to, "  a second lag of about %.2g s is likely (%.0f %%)\n", p->second,
                               100.0 * p->weight[RGP_PROCESS_LAGS] / (1.0 - p->weight[RGP_PROCESS_INTEGRAL]));
    }
    g_string_append_printf(to, "  it explains %.1f %% of what moved; the noise of a reading is ", p->fit);
    put_number(to, p->noise, m->moved_unit);
    g_string_append_c(to, '\n');
    for (guint i = 0; i < doubts->len; i++) {
        g_string_append_printf(to, i == 0 ? "nothing is to be built on it:\n  %s\n" : "  %s\n",
                               (const char *)doubts->pdata[i]);
    }
    if (line && doubts->len == 0) {
        g_string_append_printf(to, "as a line of the loop:\n    %s\n", line);
    }
    fputs(to->str, stdout);
}

static json_t *estimate_json(const rgp_estimate *e)
{
    return json_pack("{s:f, s:o, s:o}", "value", e->value, "low", is_known(e) ? json_real(e->low) : json_null(), "high",
                     is_known(e) ? json_real(e->high) : json_null());
}

static void print_json(const modelling *m, const rgp_process *p, const GPtrArray *doubts)
{
    g_autofree char *unit = gain_unit(m, p), *line = predict_line(m, p);
    json_t *all = json_array();
    for (guint i = 0; i < doubts->len; i++) {
        json_array_append_new(all, json_string(doubts->pdata[i]));
    }
    const bool integral = p->kind == RGP_PROCESS_INTEGRAL;
    command_print_json(json_pack(
        "{s:s, s:s, s:s, s:s, s:o, s:o, s:o, s:o, s:f, s:f, s:o, s:s?}", "loop", m->name, "measured", m->measured,
        "kind", integral ? "integral" : "lag", "unit", unit, "gain", estimate_json(&p->gain), "sum",
        estimate_json(&p->sum), "lag", integral ? json_null() : estimate_json(&p->lag), "dead", estimate_json(&p->dead),
        "fit", p->fit, "noise", p->noise, "doubts", all, "line", doubts->len == 0 ? line : NULL));
}

static int tell(const modelling *m, const rgp_process *p)
{
    g_autoptr(GPtrArray) doubts = doubts_of(m, p);
    if (m->o->json) {
        print_json(m, p, doubts);
    } else {
        print_model(m, p, doubts);
    }
    if (m->o->picture) {
        const rgp_process_picture picture = {m->measured, m->measured_unit, m->actuator, m->driven_unit, m->begin_s};
        const rgp_process_data data = {m->driven, m->value, m->rows, m->tick};
        g_autoptr(GString) script = rgp_process_script(p, &data, &picture, m->o->picture);
        g_autoptr(GError) error = NULL;
        if (!picture_run(script, m->o->picture, &error)) {
            return command_refuse(m->self, "%s", error->message);
        }
    }
    return doubts->len > 0 ? EXIT_FAULT : EXIT_DONE;
}

/* ---- the command ----------------------------------------------------------------------------------- */

static bool check_options(const modelling *m)
{
    const model_options *o = m->o;
    if (o->from && (o->at || o->size || o->each || o->seed || o->fast)) {
        return refuse(m, "--at, --size, --each, --seed and --fast are of a test; a recording is as it is");
    }
    if (!o->from && (o->begin || o->until)) {
        return refuse(m, "--begin and --until go with --from RECORDING");
    }
    return !o->picture || picture_is_named(o->picture) ||
           refuse(m, "-o %s: the name of a picture ends with .png or .svg", o->picture);
}

static int model_loop(const command *self, const model_options *o, const char *path, const char *loop)
{
    modelling m = {.self = self, .o = o, .measured_unit = "", .driven_unit = "", .moved_unit = ""};
    rgp_process p;
    int status = EXIT_USAGE;
    if (!check_options(&m)) {
        return EXIT_USAGE;
    }
    m.rig = rigfile_load(self, path);
    if (m.rig && find_loop(&m, path, loop) && (o->from ? read_recording(&m) : run_test(&m))) {
        const rgp_process_data data = {m.driven, m.value, m.rows, m.tick};
        if (rgp_process_fit(&data, &p)) {
            status = tell(&m, &p);
            rgp_process_clear(&p);
        } else {
            refuse(&m,
                   "there is too little to learn from: at least 40 readings are needed, and '%s' has to be driven in "
                   "different ways",
                   m.actuator);
        }
    }
    rgp_rig_free(m.rig);
    g_free(m.driven);
    g_free(m.value);
    return status;
}

static int run_model(const command *self, int argc, char **argv)
{
    model_options o = {NULL};
    const GOptionEntry entries[] = {
        {"from", 0, 0, G_OPTION_ARG_FILENAME, &o.from, "a recording instead of a test", "RECORDING"},
        {"begin", 0, 0, G_OPTION_ARG_FILENAME, &o.begin, "from a time, a mark or 'line N' on", "MOMENT"},
        {"until", 0, 0, G_OPTION_ARG_FILENAME, &o.until, "and up to another", "MOMENT"},
        {"at", 0, 0, G_OPTION_ARG_FILENAME, &o.at, "of a test: about what it is driven; half of the travel", "VALUE"},
        {"size", 0, 0, G_OPTION_ARG_FILENAME, &o.size, "by how much up and down; a tenth of the travel", "VALUE"},
        {"each", 0, 0, G_OPTION_ARG_FILENAME, &o.each, "how long each of six pieces is; 20 s", "TIME"},
        {"seed", 0, 0, G_OPTION_ARG_FILENAME, &o.seed, "of the simulated noise; 1 if not said", "NUMBER"},
        {"fast", 0, 0, G_OPTION_ARG_NONE, &o.fast, "simulated time, as fast as it goes", NULL},
        {"output", 'o', 0, G_OPTION_ARG_FILENAME, &o.picture, "draw it, as .png or .svg", "PICTURE"},
        PORT_ENTRIES,
        {"json", 0, 0, G_OPTION_ARG_NONE, &o.json, "for a program to read", NULL},
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    int status;
    if (command_options(self, entries, &argc, &argv, 2, 2, &status)) {
        status = model_loop(self, &o, argv[1], argv[2]);
    }
    char *const all[] = {o.from, o.begin, o.until, o.at, o.size, o.each, o.seed, o.picture};
    for (size_t i = 0; i < G_N_ELEMENTS(all); i++) {
        g_free(all[i]);
    }
    return status;
}

const command command_model = {"model", "FILE LOOP",
                               "finds gain, lag and dead time of what a loop regulates, by a test or from a recording",
                               "rigpulse model boiler.rig steam --at 40% --size 20% --each 5min --fast", run_model};
