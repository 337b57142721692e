/* Operations -> runs, names, and the sections of the image. */
#include "emit.h"

#include "lanes/lanes.h"

#include <math.h>
#include <stdlib.h>
#include <string.h>

static uint32_t add_text(emitter *e, const char *text)
{
    const uint32_t at = e->text_length;
    do {
        *ARENA_PUSH(e->t->arena, e->text, e->text_length, e->text_room) = *text;
    } while (*text++);
    return at;
}

static void add_name(emitter *e, uint32_t kind, uint32_t index, uint32_t part, text_range at, const char *text,
                     const char *unit_text)
{
    const uint32_t line = report_line(e->t->report, at.start);
    const rgp_image_name name = {
        .kind = (uint16_t)kind,
        .index = (uint16_t)index,
        .part = (uint16_t)part,
        .line = (uint16_t)(line > UINT16_MAX ? UINT16_MAX : line),
        .text = add_text(e, text),
        .unit = unit_text && *unit_text ? add_text(e, unit_text) : 0,
    };
    *ARENA_PUSH(e->t->arena, e->name, e->names, e->names_room) = name;
}

/* A sequence's slot says its doing: the text of its step. */
static void name_steps(emitter *e, const symbol *s, uint16_t slot)
{
    const tree *t = e->t;
    add_name(e, RGP_NAME_PART, slot, 0, s->at, s->state == RGP_STATE_CUE ? "no" : "idle", NULL);
    if (s->state == RGP_STATE_CUE) {
        add_name(e, RGP_NAME_PART, slot, 1, s->at, "given", NULL);
        return;
    }
    const sequence *is = &t->sequence[s->sequence];
    for (unsigned i = 0; i < is->steps; i++) {
        const text_range at = is->step[i].at;
        const char *text = arena_copy(t->arena, t->report->source + at.start, at.end - at.start);
        add_name(e, RGP_NAME_PART, slot, i + 1, at,
                 arena_print(t->arena, "%u: %s", i + 1, i + 1 == is->steps ? "end" : text), NULL);
    }
}

static void name_symbol(emitter *e, const symbol *s)
{
    const uint16_t slot = emit_symbol(e, s).ref;
    add_name(e, RGP_NAME_SLOT, slot, 0, s->at, s->name, s->type.unit.text);
    if (s->kind == SYMBOL_STATE && s->state != RGP_STATE_MODE) {
        name_steps(e, s, slot);
        return;
    }
    for (uint32_t i = 0; i < s->names; i++) {
        add_name(e, RGP_NAME_PART, slot, i, s->at, s->name_of[i].name, NULL);
    }
    if (s->type.kind == TYPE_TRUTH) {
        add_name(e, RGP_NAME_PART, slot, 0, s->at, "no", NULL);
        add_name(e, RGP_NAME_PART, slot, 1, s->at, "yes", NULL);
    }
}

/* The text written there is its name. */
static void name_line(emitter *e, uint32_t kind, uint32_t index, text_range span)
{
    const tree *t = e->t;
    add_name(e, kind, index, 0, span, arena_copy(t->arena, t->report->source + span.start, span.end - span.start),
             NULL);
}

/* With the unit of the value that it shows. */
static void name_mark(emitter *e, uint32_t at, const action *a)
{
    add_name(e, RGP_NAME_MARK, at, 0, a->at, a->text, a->value ? a->value->type.unit.text : NULL);
}

static int by_owner(const void *a, const void *b)
{
    const uint64_t x = rgp_image_name_key(a), y = rgp_image_name_key(b);
    return x < y ? -1 : x > y;
}

/* Rules, sequences and the marks that both make; actions are counted on through all of them. */
static void name_actions(emitter *e)
{
    const tree *t = e->t;
    uint32_t at = 0;
    for (unsigned r = 0; r < t->rules; r++) {
        const rule *from = &t->rule[r];
        name_line(e, RGP_NAME_RULE, r, from->at);
        for (unsigned i = 0; i < from->actions; i++, at++) {
            if (from->action[i].kind == ACTION_MARK) {
                name_mark(e, at, &from->action[i]);
            }
        }
    }
    for (unsigned i = 0; i < t->sequences; i++) {
        for (unsigned k = 0; k < t->sequence[i].steps; k++) {
            const seq_step *of = &t->sequence[i].step[k];
            if (of->kind == RGP_STEP_DO) {
                if (of->action.kind == ACTION_MARK) {
                    name_mark(e, at, &of->action);
                }
                at++;
            }
        }
        add_name(e, RGP_NAME_SEQUENCE, i, 0, t->sequence[i].at, t->sequence[i].symbol->name, NULL);
    }
}

static void name_keepers(emitter *e)
{
    const tree *t = e->t;
    for (unsigned i = 0; i < t->loops; i++) {
        add_name(e, RGP_NAME_LOOP, i, 0, t->loop[i]->at, t->loop[i]->name, NULL);
    }
    for (uint32_t i = 0; i < e->guards; i++) {
        name_line(e, RGP_NAME_GUARD, i, t->guard[e->guard_source[i]].at);
    }
    for (uint32_t i = 0; i < e->stalls; i++) {
        name_line(e, RGP_NAME_STALL, i, t->stall[e->stall_source[i]].at);
    }
    for (uint32_t i = 0; i < t->stops; i++) {
        name_line(e, RGP_NAME_STOP, i, t->stop[i].at);
    }
}

void emit_names(emitter *e)
{
    tree *t = e->t;
    add_text(e, "");
    add_name(e, RGP_NAME_RIG, 0, 0, (text_range){0, 0}, t->name, NULL);
    for (symbol_kind kind = SYMBOL_PARAM; kind <= SYMBOL_BANDS; kind++) {
        for (unsigned i = 0; i < t->symbols; i++) {
            if (t->symbol[i]->kind == kind) {
                name_symbol(e, t->symbol[i]);
            }
        }
    }
    name_actions(e);
    name_keepers(e);
    qsort(e->name, e->names, sizeof *e->name, by_owner);
}

typedef struct run_lists {
    rgp_image_run *run;
    uint16_t *operand;
    uint32_t *config[2];
    rgp_image_patch *patch;
    uint16_t *pace;
    unsigned paces, paces_room;
    unsigned runs, runs_room, operands, operands_room, configs[2], configs_room[2], patches, patches_room;
} run_lists;

/* The settings of the last four of a run that goes by lanes lie by field. */
static void lay_by_field(uint32_t *four, uint32_t stride)
{
    uint32_t one_by_one[RGP_LANES * RGP_LANES_SET_MAX / 4u];
    memcpy(one_by_one, four, RGP_LANES * stride);
    for (uint32_t lane = 0; lane < RGP_LANES; lane++) {
        rgp_lanes_put(four, lane, one_by_one + lane * stride / 4u, stride);
    }
}

/* As the next one of a run. */
static void lay_operation(emitter *e, run_lists *to, rgp_image_run *run, const operation *o)
{
    rgp_arena *arena = e->t->arena;
    const uint32_t live = emit_is_live(o), inputs = rgp_ops[o->op].inputs;
    for (uint32_t i = 0; i < inputs; i++) {
        *ARENA_PUSH(arena, to->operand, to->operands, to->operands_room) = o->in[i];
    }
    for (uint32_t i = 0; i < rgp_ops[o->op].outputs; i++) {
        *ARENA_PUSH(arena, to->operand, to->operands, to->operands_room) = o->out[i];
    }
    if (rgp_ops[o->op].steps == RGP_STEPS_NEW) {
        *ARENA_PUSH(arena, to->pace, to->paces, to->paces_room) = o->pace;
    }
    if (rgp_op_is_owned(o->op)) {
        *ARENA_PUSH(arena, to->operand, to->operands, to->operands_room) = o->owner;
    }
    for (uint32_t i = 0; i < o->config_bytes; i += 4) {
        memcpy(ARENA_PUSH(arena, to->config[live], to->configs[live], to->configs_room[live]), o->config + i, 4);
    }
    const uint32_t n = run->count++;
    if (rgp_image_by_lanes(run) && n % RGP_LANES == RGP_LANES - 1u) {
        lay_by_field(to->config[live] + to->configs[live] - RGP_LANES * o->config_bytes / 4u, o->config_bytes);
    }
    for (uint32_t i = 0; i < o->fields; i++) {
        const live_field *f = &o->field[i];
        *ARENA_PUSH(arena, to->patch, to->patches, to->patches_room) =
            (rgp_image_patch){.param = (uint16_t)f->param->index,
                              .live_offset = run->config + rgp_op_setting_place(run, n, f->offset),
                              .scale = (float)f->scale,
                              .offset = (float)f->shift};
    }
}

/* A loop knows where the state of its operation lies. */
static void place_loop(const emitter *e, const operation *o, uint32_t state)
{
    for (unsigned i = 0; rgp_ops[o->op].loop && i < e->t->loops; i++) {
        if (e->loop && e->loop[i].first == o->out[0]) {
            e->loop[i].state = state;
        }
    }
}

static bool is_full(const rgp_image_run *run)
{
    return rgp_image_by_lanes(run) && run->count == RGP_LANES_RUN_MAX;
}

static run_lists lay_runs(emitter *e)
{
    run_lists to = {0};
    emit_sort(e);
    emit_find_steady(e);
    emit_sort(e);
    emit_find_lanes(e);
    emit_sort(e);
    for (unsigned i = 0; i < e->operations; i++) {
        const operation *o = e->operation[i];
        if (i == 0 || !emit_same_run(o, e->operation[i - 1]) || is_full(&to.run[to.runs - 1])) {
            const uint32_t state = i == 0 ? 0 : rgp_image_behind_states(&to.run[to.runs - 1]);
            *ARENA_PUSH(e->t->arena, to.run, to.runs, to.runs_room) =
                (rgp_image_run){.op = o->op,
                                .live = emit_is_live(o),
                                .config_stride = (uint16_t)o->config_bytes,
                                .state_stride = (uint16_t)o->state_bytes,
                                .operand = to.operands,
                                .config = 4 * to.configs[emit_is_live(o)],
                                .state = state,
                                .way = o->way,
                                .steady = o->steady,
                                .pace = (uint16_t)(rgp_ops[o->op].steps == RGP_STEPS_NEW ? to.paces + 1 : 0)};
        }
        rgp_image_run *run = &to.run[to.runs - 1];
        place_loop(e, o, run->state + (uint32_t)run->count * run->state_stride);
        lay_operation(e, &to, run, o);
    }
    return to;
}

static rgp_image_sensor describe_sensor(const symbol *s)
{
    return (rgp_image_sensor){
        .supervision = {.low = (int32_t)s->least,
                        .high = (int32_t)s->greatest,
                        .pinned = s->pinned,
                        .due_us = (uint32_t)(s->every_s * 1e6 + 0.5),
                        .stuck = (float)s->stuck_s,
                        .jump = (float)s->jump_per_s},
        .kind = s->is_switch                 ? RGP_SENSOR_SWITCH
                : s->type.kind == TYPE_NAMED ? RGP_SENSOR_NAMES
                                             : RGP_SENSOR_NUMBER,
        .supervised = s->pinned || s->stuck || s->jump || s->every || s->fault,
        .fault_after = (float)s->fault_s,
        .again_after = (float)s->again_s,
        .timed = s->timed,
    };
}

/* The places of those that are vetted, and of those that are timed, among such. */
static void number_sensors(rgp_image_sensor *sensor, uint32_t sensors)
{
    uint32_t supervised = 0, timed = 0;
    for (uint32_t i = 0; i < sensors; i++) {
        sensor[i].supervised = sensor[i].supervised ? ++supervised : 0;
        sensor[i].timed = sensor[i].timed ? ++timed : 0;
    }
}

static void describe_channels(emitter *e, rgp_image_sensor *sensor, rgp_image_param *param)
{
    for (unsigned i = 0; i < e->t->symbols; i++) {
        const symbol *s = e->t->symbol[i];
        if (s->kind == SYMBOL_SENSOR) {
            sensor[s->index] = describe_sensor(s);
        } else if (s->kind == SYMBOL_PARAM) {
            param[s->index] = (rgp_image_param){(float)s->initial, (float)s->least, (float)s->greatest};
        } else if (s->kind == SYMBOL_ACTUATOR) {
            rgp_image_actuator *a = &e->actuator[s->index];
            a->low = (float)s->least;
            a->high = (float)s->greatest;
            a->rest = (float)s->initial;
            a->least = (float)s->least_by;
            a->slew = (float)s->slew_by;
            a->duty = (float)s->duty_share;
            a->window = (float)s->window_s;
            a->inverted = s->inverted;
            a->longest = (float)s->longest_s;
            a->kind = s->is_switch                 ? RGP_ACTUATOR_SWITCH
                      : s->type.kind == TYPE_NAMED ? RGP_ACTUATOR_NAMES
                                                   : RGP_ACTUATOR_NUMBER;
        }
    }
}

static unsigned char *lay_sections(emitter *e, const void *const *section, const uint32_t *count, uint32_t *size)
{
    static const uint32_t bytes[RGP_SECTIONS] = {
#define SECTION_BYTES(name, type) sizeof(type),
        RGP_SECTION_LIST(SECTION_BYTES)
#undef SECTION_BYTES
    };
    rgp_image_header header = {.magic = RGP_IMAGE_MAGIC,
                               .version = RGP_IMAGE_VERSION,
                               .sections = RGP_SECTIONS,
                               .tick_us = e->t->tick_us,
                               .slots = e->slots};
    uint32_t end = sizeof header;
    for (uint32_t i = 0; i < RGP_SECTIONS; i++) {
        end = (end + 7u) & ~7u;
        header.section[i] = (rgp_image_section){end, count[i]};
        end += count[i] * bytes[i];
    }
    header.size = (end + 7u) & ~7u;
    unsigned char *image = arena_get(e->t->arena, header.size);
    memcpy(image, &header, sizeof header);
    for (uint32_t i = 0; i < RGP_SECTIONS; i++) {
        if (count[i] > 0) {
            memcpy(image + header.section[i].offset, section[i], count[i] * bytes[i]);
        }
    }
    header.memory = rgp_image_memory((const rgp_image_header *)(void *)image);
    memcpy(image, &header, sizeof header);
    header.checksum = rgp_image_checksum(image, header.size);
    memcpy(image, &header, sizeof header);
    *size = header.size;
    return image;
}

void *emit_image(emitter *e, uint32_t *size)
{
    tree *t = e->t;
    rgp_image_sensor *sensor = arena_get(t->arena, (t->count[SYMBOL_SENSOR] + 1u) * sizeof *sensor);
    rgp_image_param *param = arena_get(t->arena, (t->count[SYMBOL_PARAM] + 1u) * sizeof *param);
    describe_channels(e, sensor, param);
    number_sensors(sensor, t->count[SYMBOL_SENSOR]);
    const run_lists runs = lay_runs(e);
    const void *const section[RGP_SECTIONS] = {
        [RGP_SECTION_SENSORS] = sensor,
        [RGP_SECTION_ACTUATORS] = e->actuator,
        [RGP_SECTION_PARAMS] = param,
        [RGP_SECTION_CONSTANTS] = e->constant,
        [RGP_SECTION_RUNS] = runs.run,
        [RGP_SECTION_OPERANDS] = runs.operand,
        [RGP_SECTION_PACES] = e->pace,
        [RGP_SECTION_PACE_SENSORS] = e->pace_sensor,
        [RGP_SECTION_PACE_STEPS] = runs.pace,
        [RGP_SECTION_CONFIGS] = runs.config[0],
        [RGP_SECTION_LIVE_CONFIGS] = runs.config[1],
        [RGP_SECTION_PATCHES] = runs.patch,
        [RGP_SECTION_CLAIMS] = e->claim,
        [RGP_SECTION_ACTIONS] = e->action,
        [RGP_SECTION_RULES] = e->rule,
        [RGP_SECTION_NEEDS] = e->need,
        [RGP_SECTION_GUARDS] = e->guard,
        [RGP_SECTION_STATES] = e->state,
        [RGP_SECTION_SEQUENCES] = e->sequence,
        [RGP_SECTION_STEPS] = e->step,
        [RGP_SECTION_STALLS] = e->stall,
        [RGP_SECTION_STOPS] = e->stop,
        [RGP_SECTION_RETAINED] = e->keep,
        [RGP_SECTION_DRIVES] = e->drive,
        [RGP_SECTION_LOOPS] = e->loop,
        [RGP_SECTION_NAMES] = e->name,
        [RGP_SECTION_TEXT] = e->text,
    };
    const uint32_t count[RGP_SECTIONS] = {
        [RGP_SECTION_SENSORS] = t->count[SYMBOL_SENSOR],
        [RGP_SECTION_ACTUATORS] = t->count[SYMBOL_ACTUATOR],
        [RGP_SECTION_PARAMS] = t->count[SYMBOL_PARAM],
        [RGP_SECTION_CONSTANTS] = e->constants,
        [RGP_SECTION_RUNS] = runs.runs,
        [RGP_SECTION_OPERANDS] = runs.operands,
        [RGP_SECTION_PACES] = e->paces,
        [RGP_SECTION_PACE_SENSORS] = e->pace_sensors,
        [RGP_SECTION_PACE_STEPS] = runs.paces,
        [RGP_SECTION_CONFIGS] = runs.configs[0],
        [RGP_SECTION_LIVE_CONFIGS] = runs.configs[1],
        [RGP_SECTION_PATCHES] = runs.patches,
        [RGP_SECTION_CLAIMS] = e->claims,
        [RGP_SECTION_ACTIONS] = e->actions,
        [RGP_SECTION_RULES] = t->rules,
        [RGP_SECTION_NEEDS] = e->needs,
        [RGP_SECTION_GUARDS] = e->guards,
        [RGP_SECTION_STATES] = t->count[SYMBOL_STATE],
        [RGP_SECTION_SEQUENCES] = t->sequences,
        [RGP_SECTION_STEPS] = e->steps,
        [RGP_SECTION_STALLS] = e->stalls,
        [RGP_SECTION_STOPS] = t->stops,
        [RGP_SECTION_RETAINED] = t->keeps,
        [RGP_SECTION_DRIVES] = t->follows,
        [RGP_SECTION_LOOPS] = t->loops,
        [RGP_SECTION_NAMES] = e->names,
        [RGP_SECTION_TEXT] = e->text_length,
    };
    for (uint32_t i = 0; i < RGP_SECTIONS; i++) {
        if (i != RGP_SECTION_TEXT && i != RGP_SECTION_CONFIGS && count[i] >= RGP_SLOTS_MAX) {
            report_error(t->report, (text_range){0, 0}, "divide the rig", "this rig is too large for an image");
            return NULL;
        }
    }
    return lay_sections(e, section, count, size);
}
