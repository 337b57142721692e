/* The simulated port: a rig's channels connected to mechanisms by its hook-up. */
#include "sim.h"

#include "edges.h"
#include "words.h"
#include "ports/clock.h"
#include "sim/sensors/sensor.h"

#include "sim/mechanisms/mechanism.h"
#include "rigpulse/image.h"

#include <gio/gio.h>
#include <math.h>
#include <string.h>

typedef struct machine {
    const mechanism *mechanism;
    const rgp_mechanism_item *item;
    double state[MECHANISM_STATES_MAX];
    mechanism_grip grip;
} machine;

struct rgp_sim {
    rgp_port port;
    const rgp_hookup *hookup;
    uint64_t now_us;                        /* of the mechanisms */
    uint64_t leapt_us;                      /* the port's clock has leapt on by */
    uint64_t stands_at_us, stands_until_us; /* it stands */
    bool paced;
    wall_clock clock;
    machine *machine;
    simulated *sensor;
    int32_t *simulated_of; /* by sensor; -1: not connected */
    edge_line **edges;     /* by sensor; NULL: its changes are not measured */
    float *output;         /* by actuator */
    uint32_t sensors, actuators;
    bool on_word;    /* disturbances behind 0 s wait to be asked for */
    uint32_t *order; /* disturbances by their time */
    uint32_t happened;
};

#define EDGE_EXACT 2e-7 /* seconds: edges are told in whole microseconds */

/* ---- time ---------------------------------------------------------------------------------------- */

/* While a hand holds it, nothing moves by itself; it may let go between `from` and `to`. */
static void move_machine(machine *m, const double *input, double from, double to)
{
    if (m->grip.holds && m->grip.until <= to) {
        from = fmax(from, m->grip.until);
        mechanism_let_go(m->mechanism, m->item->value, &m->grip, m->state);
    }
    if (!m->grip.holds) {
        mechanism_run(m->mechanism, m->item->value, input, from, to, m->state);
    }
}

static void move_plainly(rgp_sim *s, machine *m, const double *input, double from, double to)
{
    (void)s;
    move_machine(m, input, from, to);
}

/* The reading of a watched sensor for a machine as it is at a time. */
static int32_t seen_level(const machine *m, const simulated *p, double time)
{
    return simulated_level(p,
                           mechanism_output(m->mechanism, m->item->value, time, m->state, &m->grip, p->item->output));
}

/* Between `from` and `to`, where the machine was `before` and is `after`, the switch has changed: halving finds when.
 */
static double find_change(const machine *before, const simulated *p, const double *input, double from, double to)
{
    const int32_t level = seen_level(before, p, from);
    double low = from, high = to;
    while (high - low > EDGE_EXACT) {
        machine probe = *before;
        const double middle = 0.5 * (low + high);
        move_machine(&probe, input, from, middle);
        *(seen_level(&probe, p, middle) == level ? &low : &high) = middle;
    }
    return high;
}

static bool is_watched(const rgp_sim *s, const simulated *p, const machine *m)
{
    return s->edges[p->item->sensor] && p->item->kind->source == RGP_SOURCE_MECHANISM &&
           &s->machine[p->item->mechanism] == m;
}

/* In short steps, so that two changes within a tick are seen. */
static void move_watched(rgp_sim *s, machine *m, const double *input, double from, double to)
{
    const double brief = m->mechanism->brief > 0.0 ? m->mechanism->brief : MECHANISM_BRIEF;
    const double steps = ceil((to - from) / brief - 1e-9);
    for (double i = 0.0; i < steps; i += 1.0) {
        const double begin = from + (to - from) * i / steps, end = from + (to - from) * (i + 1.0) / steps;
        const machine before = *m;
        move_machine(m, input, begin, end);
        for (uint32_t k = 0; k < s->hookup->sensors; k++) {
            const simulated *p = &s->sensor[k];
            if (is_watched(s, p, m) && seen_level(&before, p, begin) != seen_level(m, p, end)) {
                const double at = find_change(&before, p, input, begin, end);
                edge_line_put(s->edges[p->item->sensor], (uint32_t)seen_level(m, p, end), (uint64_t)llround(at * 1e6));
            }
        }
    }
}

static bool any_watched(const rgp_sim *s, const machine *m)
{
    bool any = false;
    for (uint32_t k = 0; k < s->hookup->sensors; k++) {
        any |= is_watched(s, &s->sensor[k], m);
    }
    return any;
}

/* A played switch changes at the moments of its table. */
static void play_edges(const rgp_sim *s, uint64_t to_us)
{
    for (uint32_t k = 0; k < s->hookup->sensors; k++) {
        const played *table = s->sensor[k].table;
        edge_line *line = table ? s->edges[s->sensor[k].item->sensor] : NULL;
        const int64_t last = line ? played_row_by(table, to_us) : 0;
        for (int64_t row = line ? played_row_by(table, s->now_us) + 1 : 1; row <= last; row++) {
            const double level = played_value(table, row);
            if (!isnan(level)) {
                edge_line_put(line, (uint32_t)lround(level), played_moment(table, row));
            }
        }
    }
}

static void move_machines(rgp_sim *s, uint64_t to_us)
{
    play_edges(s, to_us);
    for (uint32_t i = 0; i < s->hookup->mechanisms; i++) {
        machine *m = &s->machine[i];
        double input[RGP_KIND_TERMINALS_MAX];
        for (uint32_t k = 0; k < RGP_KIND_TERMINALS_MAX; k++) {
            const int32_t by = m->item->actuator[k];
            input[k] = by >= 0 ? m->item->gain[k] * (double)s->output[by] + m->item->offset[k] : 0.0;
        }
        (any_watched(s, m) ? move_watched : move_plainly)(s, m, input, (double)s->now_us / 1e6, (double)to_us / 1e6);
    }
    s->now_us = to_us;
}

static uint64_t disturbance_us(const rgp_sim *s, uint32_t i)
{
    return (uint64_t)(s->hookup->disturbance[s->order[i]].at_seconds * 1e6 + 0.5);
}

static void place(const rgp_sim *s, machine *m, double to, double lasting)
{
    mechanism_place(m->mechanism, m->item->value, (double)s->now_us / 1e6, m->state, to, lasting, &m->grip);
}

static void disturb_clock(rgp_sim *s, const rgp_disturbance_item *d)
{
    if (d->which == CLOCK_LEAPS) {
        s->leapt_us += (uint64_t)llround(d->amount * 1e6);
    } else {
        s->stands_at_us = s->now_us;
        s->stands_until_us = d->for_seconds > 0.0 ? s->now_us + (uint64_t)llround(d->for_seconds * 1e6) : UINT64_MAX;
    }
}

static void disturb(rgp_sim *s, const rgp_disturbance_item *d)
{
    if (d->mechanism < 0 && d->sensor < 0) {
        disturb_clock(s, d);
        return;
    }
    if (d->mechanism >= 0) {
        machine *m = &s->machine[d->mechanism];
        if (mechanism_is_hand(m->mechanism, d->which)) {
            place(s, m, d->amount, d->for_seconds);
        } else {
            mechanism_disturb(m->mechanism, m->item->value, m->state, d->which, d->amount);
        }
    } else {
        simulated_disturb(&s->sensor[s->simulated_of[d->sensor]], d->which, d->amount, d->at_seconds, d->for_seconds);
    }
}

static void advance(rgp_sim *s, uint64_t to_us)
{
    while (s->happened < s->hookup->disturbances && disturbance_us(s, s->happened) <= (s->on_word ? 0 : to_us)) {
        const uint64_t at = disturbance_us(s, s->happened);
        if (at > s->now_us) {
            move_machines(s, at);
        }
        disturb(s, &s->hookup->disturbance[s->order[s->happened++]]);
    }
    if (to_us > s->now_us) {
        move_machines(s, to_us);
    }
}

/* ---- the contract -------------------------------------------------------------------------------- */

/* A clock that stands tells the moment at which it came to stand; ticks meanwhile take no time, and fall out. */
static uint64_t sim_now(void *self)
{
    const rgp_sim *s = self;
    return (s->now_us < s->stands_until_us ? s->stands_at_us : s->now_us) + s->leapt_us;
}

static rgp_status sim_sleep_until(void *self, uint64_t time_us)
{
    rgp_sim *s = self;
    if (s->paced) {
        clock_sleep(&s->clock, time_us);
    }
    advance(s, time_us);
    return RGP_OK;
}

static rgp_status sim_read(void *self, uint16_t sensor, rgp_sample *sample)
{
    rgp_sim *s = self;
    if (sensor >= s->sensors) {
        return RGP_E_INDEX;
    }
    if (s->simulated_of[sensor] < 0) {
        *sample = (rgp_sample){.time_us = sim_now(s), .quality = RGP_MISSING};
        return RGP_OK;
    }
    simulated *p = &s->sensor[s->simulated_of[sensor]];
    const double time = (double)s->now_us / 1e6;
    double truth = 0.0;
    if (p->item->kind->source == RGP_SOURCE_MECHANISM) {
        truth = rgp_sim_truth(s, p->item->mechanism, p->item->output);
    }
    *sample = simulated_read(p, truth, time, sim_now(s));
    if (s->edges[sensor] && sample->quality == RGP_GOOD &&
        !sample->same) { /* what faults and hands make of it has its moment here */
        edge_line_put(s->edges[sensor], (uint32_t)sample->raw, s->now_us);
    }
    return RGP_OK;
}

static rgp_status sim_edges(void *self, uint16_t sensor, uint64_t until_us, rgp_port_edge *edge, uint16_t room,
                            uint16_t *count, uint32_t *lost)
{
    const rgp_sim *s = self;
    if (sensor >= s->sensors || !s->edges[sensor]) {
        return RGP_E_INDEX;
    }
    edge_line_take(s->edges[sensor], until_us - MIN(until_us, s->leapt_us), edge, room, count, lost);
    for (uint16_t i = 0; i < *count; i++) {
        edge[i].time_us += s->leapt_us;
    }
    return RGP_OK;
}

static rgp_status sim_write(void *self, uint16_t actuator, float value)
{
    rgp_sim *s = self;
    if (actuator >= s->actuators) {
        return RGP_E_INDEX;
    }
    s->output[actuator] = value;
    return RGP_OK;
}

/* ---- making one ---------------------------------------------------------------------------------- */

static int by_time(const void *a, const void *b, void *self)
{
    const rgp_disturbance_item *d = self;
    const uint32_t x = *(const uint32_t *)a, y = *(const uint32_t *)b;
    if (d[x].at_seconds != d[y].at_seconds) {
        return d[x].at_seconds < d[y].at_seconds ? -1 : 1;
    }
    return x < y ? -1 : x > y;
}

static void begin_machines(rgp_sim *s)
{
    s->machine = g_new0(machine, s->hookup->mechanisms);
    for (uint32_t i = 0; i < s->hookup->mechanisms; i++) {
        const rgp_mechanism_item *item = &s->hookup->mechanism[i];
        s->machine[i] = (machine){.mechanism = mechanism_of(item->kind), .item = item};
        mechanism_begin(s->machine[i].mechanism, item->value, s->machine[i].state);
    }
    s->order = g_new0(uint32_t, s->hookup->disturbances);
    for (uint32_t i = 0; i < s->hookup->disturbances; i++) {
        s->order[i] = i;
    }
    if (s->hookup->disturbances > 0) {
        g_qsort_with_data(s->order, (gint)s->hookup->disturbances, sizeof *s->order, by_time,
                          (void *)s->hookup->disturbance);
    }
}

static void watch_edges(rgp_sim *s, const rgp_image_sensor *sensor)
{
    s->edges = g_new0(edge_line *, s->sensors + 1);
    for (uint32_t i = 0; i < s->sensors; i++) {
        s->edges[i] = sensor[i].timed ? g_new0(edge_line, 1) : NULL;
    }
}

static bool begin_sensors(rgp_sim *s, const rgp_rig *rig, uint64_t seed, GError **error)
{
    g_autofree char *folder = g_path_get_dirname(rig->file);
    g_autofree char *from = g_canonicalize_filename(folder, NULL);
    s->sensor = g_new0(simulated, s->hookup->sensors);
    s->simulated_of = g_new0(int32_t, s->sensors + 1);
    watch_edges(s, rgp_image_at(rig->image, RGP_SECTION_SENSORS));
    memset(s->simulated_of, -1, s->sensors * sizeof *s->simulated_of);
    for (uint32_t i = 0; i < s->hookup->sensors; i++) {
        const rgp_sensor_item *item = &s->hookup->sensor[i];
        s->simulated_of[item->sensor] = (int32_t)i;
        if (!simulated_begin(&s->sensor[i], item, rig->image, seed, from, error)) {
            g_prefix_error(error, "%s:%u: ", rig->file, item->line);
            return false;
        }
    }
    return true;
}

rgp_sim *rgp_sim_new(const rgp_rig *rig, uint64_t seed, bool paced, GError **error)
{
    if (!rig->hookup || strcmp(rig->hookup->port, "sim") != 0) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_NOT_FOUND,
                    "%s: this rig is not hooked up to the simulated port; add 'hookup sim' and below it what its "
                    "channels are connected to",
                    rig->file);
        return NULL;
    }
    rgp_sim *s = g_new0(rgp_sim, 1);
    s->port = (rgp_port){.version = RGP_PORT_VERSION,
                         .self = s,
                         .now = sim_now,
                         .sleep_until = sim_sleep_until,
                         .read = sim_read,
                         .edges = sim_edges,
                         .write = sim_write};
    s->hookup = rig->hookup;
    s->paced = paced;
    s->sensors = rgp_image_count(rig->image, RGP_SECTION_SENSORS);
    s->actuators = rgp_image_count(rig->image, RGP_SECTION_ACTUATORS);
    s->output = g_new0(float, s->actuators + 1);
    begin_machines(s);
    if (!begin_sensors(s, rig, seed, error)) {
        rgp_sim_free(s);
        return NULL;
    }
    return s;
}

void rgp_sim_free(rgp_sim *s)
{
    if (!s) {
        return;
    }
    for (uint32_t i = 0; s->sensor && i < s->hookup->sensors; i++) {
        simulated_end(&s->sensor[i]);
    }
    g_free(s->machine);
    g_free(s->sensor);
    g_free(s->simulated_of);
    for (uint32_t i = 0; s->edges && i < s->sensors; i++) {
        g_free(s->edges[i]);
    }
    g_free(s->edges);
    g_free(s->output);
    g_free(s->order);
    g_free(s);
}

void rgp_sim_pace(rgp_sim *s, double times)
{
    clock_set(&s->clock, times);
}

char *rgp_sim_says(const rgp_sim *s)
{
    GString *all = g_string_new(NULL);
    for (uint32_t i = 0; i < s->hookup->sensors; i++) {
        g_autofree char *note = simulated_note(&s->sensor[i]);
        if (note) {
            g_string_append_printf(all, "%s%s", all->len ? "\n" : "", note);
        }
    }
    return g_string_free(all, all->len == 0);
}

double rgp_sim_noise(const rgp_sim *s, uint32_t sensor)
{
    double noise = 0.0;
    for (uint32_t i = 0; i < s->hookup->sensors; i++) {
        noise = s->hookup->sensor[i].sensor == sensor ? simulated_noise(&s->sensor[i]) : noise;
    }
    return noise;
}

const rgp_port *rgp_sim_port(rgp_sim *s)
{
    return &s->port;
}

rgp_lateness rgp_sim_lateness(const rgp_sim *s)
{
    return clock_lateness(&s->clock);
}

void rgp_sim_catch_up(rgp_sim *s)
{
    clock_begin(&s->clock);
}

void rgp_sim_wait_for_word(rgp_sim *s)
{
    s->on_word = true;
}

void rgp_sim_disturb(rgp_sim *s, uint32_t disturbance)
{
    rgp_disturbance_item now = s->hookup->disturbance[disturbance];
    now.at_seconds = (double)s->now_us / 1e6;
    disturb(s, &now);
}

double rgp_sim_truth(const rgp_sim *s, uint32_t which, uint32_t output)
{
    const machine *m = &s->machine[which];
    return mechanism_output(m->mechanism, m->item->value, (double)s->now_us / 1e6, m->state, &m->grip, output);
}

static machine *seen_by(const rgp_sim *s, uint32_t sensor)
{
    const rgp_sensor_item *item =
        sensor < s->sensors && s->simulated_of[sensor] >= 0 ? s->sensor[s->simulated_of[sensor]].item : NULL;
    return item && item->kind->source == RGP_SOURCE_MECHANISM ? &s->machine[item->mechanism] : NULL;
}

double rgp_sim_counts(const rgp_sim *s, uint32_t sensor)
{
    if (!seen_by(s, sensor)) {
        return (double)NAN;
    }
    const simulated *p = &s->sensor[s->simulated_of[sensor]];
    return simulated_counts(p, rgp_sim_truth(s, p->item->mechanism, p->item->output), (double)s->now_us / 1e6);
}

const char *rgp_sim_hand_unit(const rgp_sim *s, uint32_t sensor)
{
    const machine *m = seen_by(s, sensor);
    if (!m) {
        return NULL;
    }
    const char *unit = m->mechanism->kind.output[m->mechanism->hand.moves].unit;
    return strcmp(unit, RGP_UNIT_OWN) == 0 ? m->item->unit : unit;
}

const char *rgp_sim_hand_why(const rgp_sim *s, uint32_t sensor)
{
    return seen_by(s, sensor) ? NULL : "it sees no mechanism of the simulated port";
}

void rgp_sim_place(rgp_sim *s, uint32_t sensor, double to)
{
    machine *m = seen_by(s, sensor);
    if (m) {
        place(s, m, to, 0.0);
    }
}

double rgp_sim_placing(const rgp_sim *s, uint32_t sensor)
{
    const machine *m = seen_by(s, sensor);
    return m ? m->grip.takes : 0.0;
}

void rgp_sim_let_go(rgp_sim *s, uint32_t sensor)
{
    machine *m = seen_by(s, sensor);
    if (m && m->grip.holds) {
        mechanism_let_go(m->mechanism, m->item->value, &m->grip, m->state);
    }
}
