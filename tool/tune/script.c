/* Orders for tune, line by line, on one rig that goes on:
 *
 *   kp 8, ki 0.1     gains, at once; a setting that is no gain (filter 20 ms): the rig begins anew with it
 *   step 2 K         a step of the setpoint; push 10 %: of the output; disturb: the next that the hook-up states
 *   wait 20 s        goes on; settle: until the loop is off its limits
 *   place 60 degC    a hand brings what is measured there, and lets go
 *   back 2           the gains of try 2
 *   cancel           the last test counts no more
 *   clear            faults cleared, and on
 *   anew             the rig begins again, with these gains and all tries
 *   save             writes the gains as they are into the rig file
 */
#include "runtime/interrupt.h"
#include "tune.h"

#include <string.h>

#define LINE_MOST 400

typedef struct script {
    tuning *t;
    tune_bench *bench;
    double gain[TUNE_VALUES];
    uint32_t disturbed;
    guint line;
} script;

static bool begin_anew(script *s, const double *gain, char **why)
{
    g_autoptr(GError) error = NULL;
    tune_bench *bench = tune_bench_new(s->t, gain, &error);
    if (!bench) {
        *why = g_strdup(error->message);
        return false;
    }
    tune_bench_free(s->bench);
    s->bench = bench;
    return true;
}

/* A setting that is no gain cannot change while the rig runs: it begins anew. */
static bool use_gains(script *s, const double *gain, char **why)
{
    const bool running = tune_same_settings(s->t, gain, s->gain);
    const bool used = running ? tune_bench_gains(s->bench, gain) : begin_anew(s, gain, why);
    if (used) {
        memcpy(s->gain, gain, sizeof s->gain);
    }
    return used;
}

static bool give_gains(script *s, const char *text, char **why)
{
    double gain[TUNE_VALUES];
    memcpy(gain, s->gain, sizeof gain);
    return tune_parse_gains(s->t, text, gain, why) && use_gains(s, gain, why);
}

static bool give_test(script *s, tune_test test, const char *amount, char **why)
{
    double size = 0.0;
    uint32_t which = 0;
    if (test == TUNE_DISTURB) {
        const uint32_t count = tune_disturbances(s->t);
        if (count == 0) {
            *why = g_strdup("the hook-up states no disturbance behind 0 s");
            return false;
        }
        which = tune_disturbance(s->t, s->disturbed++ % count);
    } else if (!tune_parse_amount(s->t, test, amount, &size, why)) {
        return false;
    }
    tune_bench_settle(s->bench);
    return tune_bench_test(s->bench, test, size, which, why) > 0;
}

static bool give_wait(script *s, const char *text, char **why)
{
    const char *wrong = "";
    double seconds;
    if (!rgp_quantity_parse(text, "s", &seconds, &wrong) || !(seconds > 0.0 && seconds <= 36000.0)) {
        *why = g_strdup_printf("wait %s: write a time up to 10 h, for instance: wait 20 s", text);
        return false;
    }
    tune_bench_wait(s->bench, seconds);
    return true;
}

/* The setting of that name has a unit: "back 20 s". */
static bool give_back(script *s, const char *text, char **why)
{
    char *end;
    const guint64 number = g_ascii_strtoull(text, &end, 10);
    if (*end && end != text) {
        g_autofree char *setting = g_strdup_printf("back %s", text);
        return give_gains(s, setting, why);
    }
    if (end == text || number < 1 || number > s->t->tries->len) {
        *why = g_strdup_printf("back %s: the tries go from 1 to %u", text, s->t->tries->len);
        return false;
    }
    return use_gains(s, tune_try_at(s->t, (guint)number - 1)->gain, why);
}

static bool give_step(script *s, const char *rest, char **why)
{
    return give_test(s, TUNE_STEP, rest, why);
}

static bool give_push(script *s, const char *rest, char **why)
{
    return give_test(s, TUNE_PUSH, rest, why);
}

static bool give_disturbance(script *s, const char *rest, char **why)
{
    return give_test(s, TUNE_DISTURB, rest, why);
}

static bool give_settle(script *s, const char *rest, char **why)
{
    (void)rest;
    (void)why;
    tune_bench_settle(s->bench);
    return true;
}

static bool give_place(script *s, const char *rest, char **why)
{
    return tune_bench_place(s->bench, rest, why);
}

static bool give_clear(script *s, const char *rest, char **why)
{
    (void)rest;
    (void)why;
    tune_bench_clear(s->bench);
    return true;
}

static bool give_anew(script *s, const char *rest, char **why)
{
    (void)rest;
    return begin_anew(s, s->gain, why);
}

/* As Esc on the screen: as if the last test had not been. */
static bool give_cancel(script *s, const char *rest, char **why)
{
    (void)rest;
    if (s->t->tries->len == 0) {
        *why = g_strdup("there is no test yet");
        return false;
    }
    g_array_set_size(s->t->tries, s->t->tries->len - 1);
    return true;
}

static bool give_save(script *s, const char *rest, char **why)
{
    (void)rest;
    g_autofree char *said = NULL;
    const bool done = tune_save(s->t, s->gain, &said);
    *why = done ? NULL : g_steal_pointer(&said);
    return done;
}

static const struct {
    const char *word;
    bool (*run)(script *s, const char *rest, char **why);
} orders[] = {
    {"step", give_step},     {"push", give_push},     {"disturb", give_disturbance}, {"wait", give_wait},
    {"settle", give_settle}, {"place", give_place},   {"back", give_back},           {"clear", give_clear},
    {"anew", give_anew},     {"cancel", give_cancel}, {"save", give_save},
};

/* A line that is no order is a gain, or a setting. */
static bool obey(script *s, const char *line, char **why)
{
    g_auto(GStrv) word = g_strsplit(line, " ", 2);
    for (size_t i = 0; i < G_N_ELEMENTS(orders); i++) {
        if (strcmp(word[0], orders[i].word) == 0) {
            return orders[i].run(s, word[1] ? g_strstrip(word[1]) : "", why);
        }
    }
    if (give_gains(s, line, why)) {
        return true;
    }
    GString *all = g_string_new(*why);
    g_string_append(all, "; orders are");
    for (size_t i = 0; i < G_N_ELEMENTS(orders); i++) {
        g_string_append_printf(all, "%s %s", i ? "," : "", orders[i].word);
    }
    g_free(*why);
    *why = g_string_free(all, FALSE);
    return false;
}

int tune_script(tuning *t, FILE *from)
{
    g_autoptr(GError) error = NULL;
    script s = {.t = t};
    tune_file_gains(t, s.gain);
    s.bench = tune_bench_new(t, s.gain, &error);
    if (!s.bench) {
        return command_refuse(t->self, "%s", error->message);
    }
    int status = EXIT_DONE;
    char line[LINE_MOST];
    while (status == EXIT_DONE && !interrupt_asked() && fgets(line, sizeof line, from)) {
        g_autofree char *why = NULL;
        s.line++;
        line[strcspn(line, "#\n")] = '\0';
        g_strstrip(line);
        if (*line && !(g_utf8_validate(line, -1, NULL) && obey(&s, line, &why))) {
            status = command_refuse(t->self, "order %u, '%s': %s", s.line, g_utf8_validate(line, -1, NULL) ? line : "?",
                                    why ? why : "this is not UTF-8");
        }
    }
    tune_bench_free(s.bench);
    return status;
}
