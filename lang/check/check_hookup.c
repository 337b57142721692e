/* Warnings that a hook-up gives about its rig: sensors that nobody feeds, ends that no guard heeds, loops that
 * would run away. */
#include "check.h"

#include <string.h>

/* " in 'hookup serial'", where there are others. */
static const char *of_port(const tree *t, const rgp_hookup *h)
{
    return t->hookups > 1 ? arena_print(t->arena, " in 'hookup %s'", h->port) : "";
}

static bool is_connected(const rgp_hookup *h, const symbol *s)
{
    bool connected = false;
    for (unsigned k = 0; k < h->sensors && s->kind == SYMBOL_SENSOR; k++) {
        connected |= h->sensor[k].sensor == s->index;
    }
    for (unsigned k = 0; k < h->actuators && s->kind == SYMBOL_ACTUATOR; k++) {
        connected |= h->actuator[k].actuator == s->index;
    }
    return connected;
}

static void warn_unconnected(const tree *t, const rgp_hookup *h)
{
    const bool has_lines = h->catalog && h->catalog->actuator; /* of actuators */
    for (unsigned i = 0; i < t->symbols; i++) {
        const symbol *s = t->symbol[i];
        if (s->kind == SYMBOL_SENSOR && !is_connected(h, s)) {
            report_warning(t->report, s->at,
                           has_lines ? "connect it in the hook-up, for instance: ... takes column 1 of ..."
                                     : "connect it in the hook-up, for instance: ... sees ... or ... reads 0",
                           "sensor '%s' is not connected%s and will read as missing", s->name, of_port(t, h));
        } else if (s->kind == SYMBOL_ACTUATOR && has_lines && !is_connected(h, s)) {
            report_warning(t->report, s->at, "connect it in the hook-up, for instance: ... sends \"...\" to ...",
                           "actuator '%s' is not connected%s and will drive nothing", s->name, of_port(t, h));
        }
    }
}

static bool is_same_column(const rgp_sensor_item *a, const rgp_sensor_item *b)
{
    const bool named = a->column || b->column;
    return a->mechanism == b->mechanism &&
           (named ? a->column && b->column && strcmp(a->column, b->column) == 0 : a->constant == b->constant);
}

/* Sensors of a device on a wire: two of one column, and one whose silence nobody would notice. */
static void warn_wired(const tree *t, const rgp_hookup *h)
{
    for (unsigned i = 0; i < h->sensors; i++) {
        const rgp_sensor_item *is = &h->sensor[i];
        const symbol *s = tree_channel(t, SYMBOL_SENSOR, is->sensor);
        if (is->kind->source != RGP_SOURCE_DEVICE) {
            continue;
        }
        for (unsigned k = 0; k < i; k++) {
            if (h->sensor[k].kind->source == RGP_SOURCE_DEVICE && is_same_column(&h->sensor[k], is)) {
                report_warning(t->report, s->at, "correct one of the two, if that was not meant",
                               "'%s' takes the same column as '%s'%s", s->name,
                               tree_channel(t, SYMBOL_SENSOR, h->sensor[k].sensor)->name, of_port(t, h));
            }
        }
        if (!s->every && !s->stuck) {
            report_warning(t->report, s->at, "say how often it has a new reading, for instance: every 100 ms",
                           "nobody would notice when the device of '%s' falls silent", s->name);
        }
    }
}

static bool is_guarded(const tree *t, const symbol *actuator, const symbol *sensor)
{
    bool guarded = false;
    for (unsigned i = 0; i < t->guards; i++) {
        const guard *g = &t->guard[i];
        guarded |= g->condition && (!g->actuator || g->actuator == actuator) && tree_needs(t, g->condition, sensor);
    }
    return guarded;
}

/* A switch that tells an end, and no guard that heeds it. */
static void warn_unguarded(const tree *t, const rgp_hookup *h)
{
    for (unsigned i = 0; i < h->sensors; i++) {
        const rgp_sensor_item *s = &h->sensor[i];
        const bool sees = s->kind->source == RGP_SOURCE_MECHANISM;
        const rgp_mechanism_item *m = sees ? &h->mechanism[s->mechanism] : NULL;
        const int32_t end = sees ? m->kind->output[s->output].end : 0;
        if (end == 0 || m->actuator[0] < 0) {
            continue;
        }
        const symbol *actuator = tree_channel(t, SYMBOL_ACTUATOR, (uint32_t)m->actuator[0]);
        const symbol *sensor = tree_channel(t, SYMBOL_SENSOR, s->sensor);
        if (!is_guarded(t, actuator, sensor)) {
            report_warning(t->report, sensor->at,
                           arena_print(t->arena, "add: never %s %s 0 while %s is on", actuator->name,
                                       end > 0 ? "above" : "below", sensor->name),
                           "'%s' tells that '%s' has come to its end, but no guard heeds it", sensor->name,
                           actuator->name);
        }
    }
}

static bool cuts_out(const loop *l)
{
    bool cuts = false;
    for (uint32_t i = 0; i < l->lines; i++) {
        cuts |= strcmp(l->line[i].line->word, "cut out") == 0;
    }
    return cuts;
}

/* A loop on what falls by itself goes on driving when it has fallen, unless it cuts out. */
static void warn_falling(const tree *t, const rgp_hookup *h)
{
    for (unsigned i = 0; i < h->mechanisms; i++) {
        for (unsigned k = 0; k < t->loops && h->mechanism[i].kind->falls; k++) {
            const loop *l = t->loop[k];
            if (h->mechanism[i].actuator[0] == (int32_t)l->actuator->index && !cuts_out(l)) {
                report_warning(t->report, l->at, "add a line: cut out beyond 15 deg for 50 ms, again",
                               "'%s' falls by itself, and this loop goes on driving when it has fallen",
                               h->mechanism[i].name);
            }
        }
    }
}

/* The line of a sensor that sees a mechanism; NULL: there is none. */
static const rgp_sensor_item *simulated_of(const rgp_hookup *h, const symbol *sensor)
{
    for (unsigned i = 0; i < h->sensors; i++) {
        if (h->sensor[i].sensor == sensor->index && h->sensor[i].kind->source == RGP_SOURCE_MECHANISM) {
            return &h->sensor[i];
        }
    }
    return NULL;
}

/* 1 when what a loop measures rises while its actuator is driven more, -1 when it falls, 0 when that is not known. */
static int answer_of(const rgp_hookup *h, const loop *l)
{
    const symbol *sensor = NULL;
    const int way = lang_way(l->measured, &sensor);
    const rgp_sensor_item *s = way != 0 ? simulated_of(h, sensor) : NULL;
    const rgp_mechanism_item *m = s ? &h->mechanism[s->mechanism] : NULL;
    if (!m || m->actuator[0] != (int32_t)l->actuator->index) {
        return 0;
    }
    const int seen =
                  s->points == 0 || s->raw[s->points - 1] > s->raw[0] ? 1 : -1, /* without points it is seen as it is */
        driven = (m->gain[0] > 0.0) != l->actuator->inverted ? 1 : -1;
    return way * seen * driven * m->kind->output[s->output].way;
}

static void warn_wrong_way(const tree *t, const rgp_hookup *h)
{
    for (unsigned i = 0; i < t->loops; i++) {
        const loop *l = t->loop[i];
        const int answer = answer_of(h, l);
        if (answer != 0 && (answer < 0) != l->reverse) {
            report_warning(t->report, l->at, answer < 0 ? "add a line: reverse" : "leave the line 'reverse' out",
                           "what is measured %s while '%s' is driven more, so this loop drives the wrong way",
                           answer < 0 ? "falls" : "rises", l->actuator->name);
        }
    }
}

static double noise_of(const rgp_sensor_item *of)
{
    for (uint32_t i = 0; i < RGP_KIND_SETTINGS_MAX && of->kind->setting[i].word; i++) {
        if (strcmp(of->kind->setting[i].word, "noise") == 0) {
            return of->value[i];
        }
    }
    return 0.0;
}

/* Bands without a margin, of a sensor that has noise; of several such sensors the first is told. */
static void warn_flickering(const tree *t, const symbol *sensor)
{
    for (unsigned i = 0; i < t->symbols; i++) {
        const symbol *s = t->symbol[i];
        if (s->kind == SYMBOL_BANDS && !s->margin && tree_needs(t, s->value, sensor)) {
            report_warning(t->report, s->at, "add '; margin M': 'rigpulse inspect' tells the smallest real change",
                           "'%s' has no margin and '%s' has noise: at a border it goes to and fro", s->name,
                           sensor->name);
        }
    }
}

void rgp_rig_warn_of_noise(rgp_rig *rig, uint32_t sensor)
{
    if (rig->errors == 0 && setjmp(rig->arena->exhausted) == 0) {
        warn_flickering(rig->tree, tree_channel(rig->tree, SYMBOL_SENSOR, sensor));
        report_finish(rig->tree->report, rig);
    }
}

void lang_warn_hookup(tree *t, const rgp_hookup *h)
{
    warn_unconnected(t, h);
    warn_wired(t, h);
    warn_unguarded(t, h);
    for (unsigned i = 0; i < h->sensors; i++) {
        if (noise_of(&h->sensor[i]) > 0.0) {
            warn_flickering(t, tree_channel(t, SYMBOL_SENSOR, h->sensor[i].sensor));
        }
    }
    warn_falling(t, h);
    warn_wrong_way(t, h);
    check_paces(t, h);
}
