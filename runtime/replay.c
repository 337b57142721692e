/* The replay of a recording: a port that gives what was recorded, and an engine on it. */
#include "replay.h"

#include "limiter.h"
#include "recorder.h"
#include "setting.h"

#include "rigpulse/version.h"

#include <string.h>

typedef struct edge_list {
    rgp_port_edge edge[RGP_EDGES_KEPT];
    uint16_t count;
    uint32_t lost;
    bool told; /* the port told edges then */
} edge_list;

struct rgp_replay {
    const rgp_rig *rig;
    const rgp_recording *from;
    rgp_port port;
    rgp_engine engine;
    void *memory;
    rgp_limiter *limiter;
    bool tells_all; /* whatever the limiter says */
    rgp_frame_layout layout;
    rgp_frame *frame;
    int32_t *then;       /* by sensor of the rig: its number in the recording; -1: it has none */
    rgp_sample *sample;  /* by sensor of the recording, of this row */
    edge_list *edges;    /* by sensor of the rig */
    uint32_t row, exact; /* the next row; the first one that is not exact */
    uint64_t tick;       /* the number of that row's tick */
    guint next_sample, next_line;
    GString *says;
    GHashTable *said; /* names that were spoken of */
};

static void say_once(rgp_replay *r, const char *name, const char *format)
{
    if (g_hash_table_add(r->said, g_strdup(name))) {
        g_string_append_printf(r->says, "%s%s%s", r->says->len > 0 ? "\n" : "", name, format);
    }
}

static void lose_exactness(rgp_replay *r, const char *why)
{
    if (r->exact > r->row) {
        r->exact = r->row;
    }
    say_once(r, why, "");
}

/* ---- the port -------------------------------------------------------------------------------------- */

static uint64_t port_now(void *self)
{
    const rgp_replay *r = self;
    return rgp_recording_time_us(r->from, r->row);
}

static rgp_status port_read(void *self, uint16_t sensor, rgp_sample *sample)
{
    const rgp_replay *r = self;
    *sample = r->then[sensor] >= 0 ? r->sample[r->then[sensor]] : (rgp_sample){.quality = RGP_MISSING};
    return RGP_OK;
}

static rgp_status port_edges(void *self, uint16_t sensor, uint64_t until_us, rgp_port_edge *edge, uint16_t room,
                             uint16_t *count, uint32_t *lost)
{
    rgp_replay *r = self;
    edge_list *list = &r->edges[sensor];
    (void)until_us;
    *count = MIN(list->count, room);
    *lost = list->lost;
    memcpy(edge, list->edge, *count * sizeof *edge);
    list->count = 0;
    list->lost = 0;
    return list->told ? RGP_OK : RGP_E_UNSUPPORTED;
}

static rgp_status port_write(void *self, uint16_t actuator, float value)
{
    const rgp_replay *r = self;
    (void)value;
    return rgp_engine_is_lost(&r->engine, actuator) ? RGP_E_CHANNEL : RGP_OK;
}

/* ---- a row ----------------------------------------------------------------------------------------- */

/* The whole number of a sensor's column; one that was written by something else may be none. */
static int32_t whole_of(float value)
{
    return value >= -2147483648.0f && value < 2147483648.0f ? (int32_t)value : 0;
}

static void take_samples(rgp_replay *r)
{
    const GArray *all = r->from->inputs->sample;
    const uint32_t sensors = rgp_image_count(r->from->image, RGP_SECTION_SENSORS),
                   first = rgp_image_sensor_slot(r->from->image, 0);
    const uint64_t now_us = rgp_recording_time_us(r->from, r->row);
    const bool former = r->from->format < 2;
    for (uint32_t i = 0; i < sensors; i++) {
        const bool missing = former && rgp_recording_quality(r->from, first + i, r->row) == RGP_MISSING;
        r->sample[i] = (rgp_sample){.time_us = now_us,
                                    .raw = whole_of(rgp_recording_value(r->from, first + i, r->row)),
                                    .quality = missing ? RGP_MISSING : RGP_GOOD};
    }
    for (; r->next_sample < all->len; r->next_sample++) {
        const rgp_input_sample *s = &g_array_index(all, rgp_input_sample, r->next_sample);
        if (s->row > r->row) {
            break;
        }
        rgp_sample *to = &r->sample[s->sensor];
        to->raw = s->whole ? s->raw : to->raw;
        to->same |= s->same;
        to->quality = s->missing ? (rgp_quality)RGP_MISSING : to->quality;
        to->time_us -= (uint64_t)s->age_us;
    }
}

/* The number by which the rig knows what a command is for; -1: it has no such thing. */
static int32_t find_subject(const rgp_image_header *image, const rgp_input *input)
{
    switch (input->command.what) {
    case RGP_COMMAND_SET:
        return rgp_image_find(image, RGP_FIND_PARAM, input->of);
    case RGP_COMMAND_HAND:
    case RGP_COMMAND_HOLD:
    case RGP_COMMAND_RELEASE:
    case RGP_COMMAND_LOSE:
    case RGP_COMMAND_REGAIN:
        return rgp_image_find(image, RGP_FIND_ACTUATOR, input->of);
    case RGP_COMMAND_RELEARN:
        return rgp_image_find(image, RGP_FIND_SLOT, input->of);
    default:
        return 0;
    }
}

/* Those for the world around the rig are in its readings already. */
static void obey(rgp_replay *r, const rgp_input *input)
{
    rgp_command c = input->command;
    if (c.what >= RGP_COMMAND_DISTURB) {
        return;
    }
    const int32_t which = find_subject(r->rig->image, input);
    c.which = (uint16_t)which;
    rgp_frame_add_command(&r->layout, r->frame, &c);
    if (which < 0 || rgp_command_obey(&r->engine, &c) != RGP_OK) {
        say_once(r, input->of, ": what was asked of it then cannot be asked of this rig, and was left out");
    }
}

static void take_edge(const rgp_replay *r, const rgp_input *input)
{
    const int32_t sensor = rgp_image_find(r->rig->image, RGP_FIND_SENSOR, input->of);
    edge_list *list = sensor >= 0 ? &r->edges[sensor] : NULL;
    if (list && input->kind == RGP_INPUT_LOST) {
        list->lost += input->number;
    } else if (list && list->count < RGP_EDGES_KEPT) {
        list->edge[list->count++] = (rgp_port_edge){input->time_us, input->number};
    }
}

/* Those of this tick; a gap moves the count of the ticks on. */
static void take_lines(rgp_replay *r)
{
    const GArray *all = r->from->inputs->line;
    for (; r->next_line < all->len; r->next_line++) {
        const rgp_input *input = &g_array_index(all, rgp_input, r->next_line);
        if (input->tick > r->tick) {
            break;
        }
        if (input->kind == RGP_INPUT_GAP) {
            r->tick += input->number;
            lose_exactness(r, "ticks found no room when this was recorded: states may differ from there on");
        } else if (input->kind == RGP_INPUT_COMMAND) {
            obey(r, input);
        } else {
            take_edge(r, input);
        }
    }
}

static void take_event(void *self, const rgp_event *event)
{
    rgp_replay *r = self;
    if (r->tells_all || rgp_limiter_lets(r->limiter, event, rgp_engine_now(&r->engine))) {
        rgp_frame_add_event(&r->layout, r->frame, event);
    }
}

const rgp_frame *rgp_replay_next(rgp_replay *r)
{
    if (r->row >= r->from->rows) {
        return NULL;
    }
    *r->frame = (rgp_frame){.number = r->tick};
    take_lines(r);
    r->frame->number = r->tick;
    take_samples(r);
    rgp_engine_tick(&r->engine, &r->port);
    rgp_event storm;
    while (rgp_limiter_sums_up(r->limiter, rgp_engine_now(&r->engine), &storm)) {
        rgp_frame_add_event(&r->layout, r->frame, &storm);
    }
    rgp_sample *sample = rgp_frame_sample(&r->layout, r->frame);
    for (uint32_t i = 0; i < r->layout.sensors; i++) {
        port_read(r, (uint16_t)i, &sample[i]);
    }
    rgp_frame_take(&r->layout, r->frame, &r->engine);
    r->row++;
    r->tick++;
    return r->frame;
}

/* ---- the whole -------------------------------------------------------------------------------------- */

/* A parameter begins as the text says, or as the recorded run was told to begin otherwise than its own text says. */
static void set_params(rgp_replay *r)
{
    const rgp_image_header *image = r->from->image;
    const rgp_image_param *param = rgp_image_at(image, RGP_SECTION_PARAMS);
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_PARAMS); i++) {
        const char *name = rgp_image_text(image, RGP_NAME_SLOT, i, 0);
        const int32_t now = rgp_image_find(r->rig->image, RGP_FIND_PARAM, name);
        const bool told = r->from->param[i] < param[i].initial || r->from->param[i] > param[i].initial;
        if (told && now >= 0 && rgp_engine_set(&r->engine, (uint16_t)now, r->from->param[i]) != RGP_OK) {
            say_once(r, name, ": the value that it began with then is none of this rig's, and was left out");
        }
    }
}

static void begin_engine(rgp_replay *r)
{
    uint32_t taken;
    if (r->from->power > 0.0f) {
        rgp_engine_bound(&r->engine, r->from->power);
    }
    rgp_engine_hand_only(&r->engine, r->from->hand_only);
    if (r->from->at_rest) {
        rgp_engine_stop(&r->engine);
    }
    if (r->from->kept) {
        gsize size;
        const void *block = g_bytes_get_data(r->from->kept, &size);
        rgp_engine_restore(&r->engine, block, (uint32_t)size, &taken);
    }
}

static void find_sensors(rgp_replay *r)
{
    const rgp_image_sensor *sensor = rgp_image_at(r->rig->image, RGP_SECTION_SENSORS);
    const uint32_t sensors = r->layout.sensors, first = rgp_image_sensor_slot(r->rig->image, 0);
    r->then = g_new0(int32_t, sensors + 1);
    r->edges = g_new0(edge_list, sensors + 1);
    r->sample = g_new0(rgp_sample, rgp_image_count(r->from->image, RGP_SECTION_SENSORS) + 1);
    for (uint32_t i = 0; i < sensors; i++) {
        const char *name = rgp_image_text(r->rig->image, RGP_NAME_SLOT, first + i, 0);
        r->then[i] = rgp_image_find(r->from->image, RGP_FIND_SENSOR, name);
        r->edges[i].told = r->then[i] >= 0 && r->from->told[r->then[i]];
        if (r->then[i] < 0) {
            say_once(r, name, ": the recording has no such sensor; it is missing");
        } else if (sensor[i].timed && !r->edges[i].told) {
            say_once(r, name,
                     ": the recording has no moments of its changes, so they count at the ticks that saw them");
        }
    }
}

static void say_circumstances(rgp_replay *r)
{
    if (r->from->format < 2) {
        lose_exactness(r,
                       "this recording is of the first format, which does not say which samples were new: what goes by "
                       "that may differ");
    } else if (r->from->bits != (int)RGP_BITS) {
        lose_exactness(r, "this recording was made with other arithmetic: last digits may differ");
    }
    if (r->from->first_tick > 0) {
        lose_exactness(r, "this recording began in the middle of a run: states begin anew");
    }
    if (r->from->torn_rows > 0) {
        lose_exactness(r, "rows of this recording are cut off or unreadable: what they held is missing");
    }
    if (r->from->events_lost > 0) {
        lose_exactness(r, "events found no room when this was recorded: edges may be missing");
    }
}

rgp_replay *rgp_replay_new(const rgp_rig *rig, const rgp_recording *from, char **set, GError **error)
{
    rgp_replay *r = g_new0(rgp_replay, 1);
    const rgp_image_header *image = rig->image;
    r->rig = rig;
    r->from = from;
    r->port = (rgp_port){.version = RGP_PORT_VERSION,
                         .self = r,
                         .now = port_now,
                         .read = port_read,
                         .edges = port_edges,
                         .write = port_write};
    r->says = g_string_new(NULL);
    r->said = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    g_autofree char *complaint = rgp_recording_complaint(from);
    if (complaint) {
        say_once(r, complaint, "");
    }
    r->exact = from->rows;
    r->tick = from->first_tick;
    r->layout = rgp_frame_layout_of(image);
    r->frame = g_malloc0(r->layout.bytes);
    r->memory = g_malloc0(image->memory);
    r->limiter = rgp_limiter_new(image);
    if (rgp_engine_open(&r->engine, image, rig->image_size, r->memory, image->memory) != RGP_OK) {
        g_assert_not_reached(); /* the compiler's own image */
    }
    find_sensors(r);
    set_params(r);
    for (char **one = set; one && *one; one++) {
        if (!rgp_set_param(&r->engine, *one, error)) {
            rgp_replay_free(r);
            return NULL;
        }
    }
    begin_engine(r);
    say_circumstances(r);
    rgp_engine_listen(&r->engine, take_event, r);
    return r;
}

/* ---- places to come back to ------------------------------------------------------------------------ */

typedef struct position {
    uint64_t tick;
    uint32_t row, exact, next_sample, next_line;
} position;

struct rgp_replay_place {
    position at;
    void *memory; /* of the engine: all that it knows */
    edge_list *edges;
};

static size_t memory_size(const rgp_replay *r)
{
    return ((const rgp_image_header *)r->rig->image)->memory;
}

static size_t edges_size(const rgp_replay *r)
{
    return (r->layout.sensors + 1) * sizeof *r->edges;
}

rgp_replay_place *rgp_replay_place_of(const rgp_replay *r)
{
    rgp_replay_place *p = g_new0(rgp_replay_place, 1);
    *p = (rgp_replay_place){.at = {r->tick, r->row, r->exact, r->next_sample, r->next_line},
                            .memory = g_memdup2(r->memory, memory_size(r)),
                            .edges = g_memdup2(r->edges, edges_size(r))};
    return p;
}

void rgp_replay_go_to(rgp_replay *r, const rgp_replay_place *p)
{
    memcpy(r->memory, p->memory, memory_size(r));
    memcpy(r->edges, p->edges, edges_size(r));
    r->row = p->at.row;
    r->exact = p->at.exact;
    r->tick = p->at.tick;
    r->next_sample = p->at.next_sample;
    r->next_line = p->at.next_line;
}

size_t rgp_replay_place_size(const rgp_replay *r)
{
    return sizeof(position) + memory_size(r) + edges_size(r);
}

void rgp_replay_place_save(const rgp_replay *r, const rgp_replay_place *p, uint8_t *to)
{
    memcpy(to, &p->at, sizeof p->at);
    memcpy(to + sizeof p->at, p->memory, memory_size(r));
    memcpy(to + sizeof p->at + memory_size(r), p->edges, edges_size(r));
}

rgp_replay_place *rgp_replay_place_load(const rgp_replay *r, const uint8_t *from)
{
    rgp_replay_place *p = g_new0(rgp_replay_place, 1);
    memcpy(&p->at, from, sizeof p->at);
    p->memory = g_memdup2(from + sizeof p->at, memory_size(r));
    p->edges = g_memdup2(from + sizeof p->at + memory_size(r), edges_size(r));
    return p;
}

void rgp_replay_place_free(rgp_replay_place *p)
{
    if (p) {
        g_free(p->memory);
        g_free(p->edges);
        g_free(p);
    }
}

void rgp_replay_free(rgp_replay *r)
{
    rgp_limiter_free(r->limiter);
    g_string_free(r->says, TRUE);
    g_hash_table_unref(r->said);
    g_free(r->then);
    g_free(r->edges);
    g_free(r->sample);
    g_free(r->frame);
    g_free(r->memory);
    g_free(r);
}

const rgp_frame_layout *rgp_replay_layout(const rgp_replay *r)
{
    return &r->layout;
}

void rgp_replay_tell_all(rgp_replay *r)
{
    r->tells_all = true;
}

const rgp_engine *rgp_replay_engine(const rgp_replay *r)
{
    return &r->engine;
}

uint32_t rgp_replay_exact(const rgp_replay *r)
{
    return r->exact;
}

const char *rgp_replay_says(const rgp_replay *r)
{
    return r->says->str;
}

void rgp_replay_run(const rgp_replay *r, rgp_recorder_run *run)
{
    gsize size = 0;
    *run = (rgp_recorder_run){.seed = r->from->seed,
                              .params = r->engine.value,
                              .port = "replay",
                              .dry = true,
                              .hand_only = r->from->hand_only,
                              .at_rest = r->from->at_rest,
                              .bound = r->from->power,
                              .kept = r->from->kept ? g_bytes_get_data(r->from->kept, &size) : NULL};
    run->kept_size = (uint32_t)size;
}
