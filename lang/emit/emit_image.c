/* Operations -> runs, names, and the sections of the image. */
#include "emit.h"

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

static void add_name(emitter *e, uint32_t kind, uint32_t index, uint32_t part, rp_span at, const char *text,
                     const char *unit_text)
{
    const uint32_t line = report_line(e->t->report, at.start);
    const rp_image_name name = {
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
    add_name(e, RP_NAME_PART, slot, 0, s->at, s->state == RP_STATE_CUE ? "no" : "idle", NULL);
    if (s->state == RP_STATE_CUE) {
        add_name(e, RP_NAME_PART, slot, 1, s->at, "given", NULL);
        return;
    }
    const sequence *is = &t->sequence[s->sequence];
    for (unsigned i = 0; i < is->steps; i++) {
        const rp_span at = is->step[i].at;
        const char *text = arena_copy(t->arena, t->report->source + at.start, at.end - at.start);
        add_name(e, RP_NAME_PART, slot, i + 1, at,
                 arena_print(t->arena, "%u: %s", i + 1, i + 1 == is->steps ? "end" : text), NULL);
    }
}

static void name_symbol(emitter *e, const symbol *s)
{
    const uint16_t slot = emit_symbol(e, s).ref;
    add_name(e, RP_NAME_SLOT, slot, 0, s->at, s->name, s->type.unit.text);
    if (s->kind == SYMBOL_STATE && s->state != RP_STATE_MODE) {
        name_steps(e, s, slot);
        return;
    }
    for (uint32_t i = 0; i < s->names; i++) {
        add_name(e, RP_NAME_PART, slot, i, s->at, s->name_of[i].name, NULL);
    }
    if (s->type.kind == TYPE_TRUTH) {
        add_name(e, RP_NAME_PART, slot, 0, s->at, "no", NULL);
        add_name(e, RP_NAME_PART, slot, 1, s->at, "yes", NULL);
    }
}

/* The text written there is its name. */
static void name_line(emitter *e, uint32_t kind, uint32_t index, rp_span span)
{
    const tree *t = e->t;
    add_name(e, kind, index, 0, span, arena_copy(t->arena, t->report->source + span.start, span.end - span.start),
             NULL);
}

/* With the unit of the value that it shows. */
static void name_mark(emitter *e, uint32_t at, const action *a)
{
    add_name(e, RP_NAME_MARK, at, 0, a->at, a->text, a->value ? a->value->type.unit.text : NULL);
}

static int by_owner(const void *a, const void *b)
{
    const uint64_t x = rp_image_name_key(a), y = rp_image_name_key(b);
    return x < y ? -1 : x > y;
}

/* Rules, sequences and the marks that both make; actions are counted on through all of them. */
static void name_actions(emitter *e)
{
    const tree *t = e->t;
    uint32_t at = 0;
    for (unsigned r = 0; r < t->rules; r++) {
        const rule *from = &t->rule[r];
        name_line(e, RP_NAME_RULE, r, from->at);
        for (unsigned i = 0; i < from->actions; i++, at++) {
            if (from->action[i].kind == ACTION_MARK) {
                name_mark(e, at, &from->action[i]);
            }
        }
    }
    for (unsigned i = 0; i < t->sequences; i++) {
        for (unsigned k = 0; k < t->sequence[i].steps; k++) {
            const seq_step *of = &t->sequence[i].step[k];
            if (of->kind == RP_STEP_DO) {
                if (of->action.kind == ACTION_MARK) {
                    name_mark(e, at, &of->action);
                }
                at++;
            }
        }
        add_name(e, RP_NAME_SEQUENCE, i, 0, t->sequence[i].at, t->sequence[i].symbol->name, NULL);
    }
}

static void name_keepers(emitter *e)
{
    const tree *t = e->t;
    for (unsigned i = 0; i < t->loops; i++) {
        add_name(e, RP_NAME_LOOP, i, 0, t->loop[i]->at, t->loop[i]->name, NULL);
    }
    for (uint32_t i = 0; i < e->guards; i++) {
        name_line(e, RP_NAME_GUARD, i, t->guard[e->guard_source[i]].at);
    }
    for (uint32_t i = 0; i < e->stalls; i++) {
        name_line(e, RP_NAME_STALL, i, t->stall[e->stall_source[i]].at);
    }
    for (uint32_t i = 0; i < t->stops; i++) {
        name_line(e, RP_NAME_STOP, i, t->stop[i].at);
    }
}

void emit_names(emitter *e)
{
    tree *t = e->t;
    add_text(e, "");
    add_name(e, RP_NAME_RIG, 0, 0, (rp_span){0, 0}, t->name, NULL);
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

static bool is_live(const operation *o)
{
    return o->fields > 0;
}

static int by_run(const void *a, const void *b)
{
    const operation *x = *(operation *const *)a, *y = *(operation *const *)b;
    const uint32_t kx[] = {x->level, x->op, is_live(x), x->config_bytes, x->state_bytes, x->whole, x->order};
    const uint32_t ky[] = {y->level, y->op, is_live(y), y->config_bytes, y->state_bytes, y->whole, y->order};
    for (uint32_t i = 0; i < sizeof kx / sizeof *kx; i++) {
        if (kx[i] != ky[i]) {
            return kx[i] < ky[i] ? -1 : 1;
        }
    }
    return 0;
}

static bool same_run(const operation *x, const operation *y)
{
    return x->level == y->level && x->op == y->op && is_live(x) == is_live(y) && x->config_bytes == y->config_bytes &&
           x->state_bytes == y->state_bytes && x->whole == y->whole;
}

typedef struct run_lists {
    rp_image_run *run;
    uint16_t *operand;
    uint32_t *config[2];
    rp_image_patch *patch;
    uint16_t *pace;
    unsigned paces, paces_room;
    unsigned runs, runs_room, operands, operands_room, configs[2], configs_room[2], patches, patches_room;
} run_lists;

static void lay_operation(emitter *e, run_lists *to, const operation *o)
{
    rp_arena *arena = e->t->arena;
    const uint32_t live = is_live(o), inputs = rp_ops[o->op].inputs;
    for (uint32_t i = 0; i < inputs; i++) {
        *ARENA_PUSH(arena, to->operand, to->operands, to->operands_room) = o->in[i];
    }
    for (uint32_t i = 0; i < rp_ops[o->op].outputs; i++) {
        *ARENA_PUSH(arena, to->operand, to->operands, to->operands_room) = o->out[i];
    }
    if (rp_ops[o->op].steps == RP_STEPS_NEW) {
        *ARENA_PUSH(arena, to->pace, to->paces, to->paces_room) = o->pace;
    }
    if (rp_op_is_owned(o->op)) {
        *ARENA_PUSH(arena, to->operand, to->operands, to->operands_room) = o->owner;
    }
    const uint32_t base = 4 * to->configs[live];
    for (uint32_t i = 0; i < o->config_bytes; i += 4) {
        memcpy(ARENA_PUSH(arena, to->config[live], to->configs[live], to->configs_room[live]), o->config + i, 4);
    }
    for (uint32_t i = 0; i < o->fields; i++) {
        const live_field *f = &o->field[i];
        *ARENA_PUSH(arena, to->patch, to->patches, to->patches_room) =
            (rp_image_patch){.param = (uint16_t)f->param->index,
                             .live_offset = base + f->offset,
                             .scale = (float)f->scale,
                             .offset = (float)f->shift};
    }
}

/* A loop knows where the state of its operation lies. */
static void place_loop(const emitter *e, const operation *o, uint32_t state)
{
    for (unsigned i = 0; rp_ops[o->op].loop && i < e->t->loops; i++) {
        if (e->loop && e->loop[i].first == o->out[0]) {
            e->loop[i].state = state;
        }
    }
}

static run_lists lay_runs(emitter *e)
{
    run_lists to = {0};
    if (e->operations > 0) {
        qsort(e->operation, e->operations, sizeof *e->operation, by_run);
    }
    for (unsigned i = 0; i < e->operations; i++) {
        const operation *o = e->operation[i];
        if (i == 0 || !same_run(o, e->operation[i - 1])) {
            const uint32_t state = i == 0 ? 0 : rp_image_behind_states(&to.run[to.runs - 1]);
            *ARENA_PUSH(e->t->arena, to.run, to.runs, to.runs_room) =
                (rp_image_run){.op = o->op,
                               .live = is_live(o),
                               .config_stride = (uint16_t)o->config_bytes,
                               .state_stride = (uint16_t)o->state_bytes,
                               .operand = to.operands,
                               .config = 4 * to.configs[is_live(o)],
                               .state = state,
                               .whole = o->whole,
                               .pace = (uint16_t)(rp_ops[o->op].steps == RP_STEPS_NEW ? to.paces + 1 : 0)};
        }
        rp_image_run *run = &to.run[to.runs - 1];
        place_loop(e, o, run->state + (uint32_t)run->count * run->state_stride);
        run->count++;
        lay_operation(e, &to, o);
    }
    return to;
}

static rp_image_sensor describe_sensor(const symbol *s)
{
    return (rp_image_sensor){
        .vet = {.low = (int32_t)s->least,
                .high = (int32_t)s->greatest,
                .pinned = s->pinned,
                .due_us = (uint32_t)(s->every_s * 1e6 + 0.5),
                .stuck = (float)s->stuck_s,
                .jump = (float)s->jump_per_s},
        .kind = s->is_switch                 ? RP_SENSOR_SWITCH
                : s->type.kind == TYPE_NAMED ? RP_SENSOR_NAMES
                                             : RP_SENSOR_NUMBER,
        .vetted = s->pinned || s->stuck || s->jump || s->every || s->fault,
        .fault_after = (float)s->fault_s,
        .again_after = (float)s->again_s,
        .timed = s->timed,
    };
}

/* The places of those that are vetted, and of those that are timed, among such. */
static void number_sensors(rp_image_sensor *sensor, uint32_t sensors)
{
    uint32_t vetted = 0, timed = 0;
    for (uint32_t i = 0; i < sensors; i++) {
        sensor[i].vetted = sensor[i].vetted ? ++vetted : 0;
        sensor[i].timed = sensor[i].timed ? ++timed : 0;
    }
}

static void describe_channels(emitter *e, rp_image_sensor *sensor, rp_image_param *param)
{
    for (unsigned i = 0; i < e->t->symbols; i++) {
        const symbol *s = e->t->symbol[i];
        if (s->kind == SYMBOL_SENSOR) {
            sensor[s->index] = describe_sensor(s);
        } else if (s->kind == SYMBOL_PARAM) {
            param[s->index] = (rp_image_param){(float)s->initial, (float)s->least, (float)s->greatest};
        } else if (s->kind == SYMBOL_ACTUATOR) {
            rp_image_actuator *a = &e->actuator[s->index];
            a->low = (float)s->least;
            a->high = (float)s->greatest;
            a->rest = (float)s->initial;
            a->least = (float)s->least_by;
            a->slew = (float)s->slew_by;
            a->duty = (float)s->duty_share;
            a->window = (float)s->window_s;
            a->inverted = s->inverted;
            a->longest = (float)s->longest_s;
            a->kind = s->is_switch                 ? RP_ACTUATOR_SWITCH
                      : s->type.kind == TYPE_NAMED ? RP_ACTUATOR_NAMES
                                                   : RP_ACTUATOR_NUMBER;
        }
    }
}

static unsigned char *lay_sections(emitter *e, const void *const *section, const uint32_t *count, uint32_t *size)
{
    static const uint32_t bytes[RP_SECTIONS] = {
#define SECTION_BYTES(name, type) sizeof(type),
        RP_SECTION_LIST(SECTION_BYTES)
#undef SECTION_BYTES
    };
    rp_image_header header = {.magic = RP_IMAGE_MAGIC,
                              .version = RP_IMAGE_VERSION,
                              .sections = RP_SECTIONS,
                              .tick_us = e->t->tick_us,
                              .slots = e->slots};
    uint32_t end = sizeof header;
    for (uint32_t i = 0; i < RP_SECTIONS; i++) {
        end = (end + 7u) & ~7u;
        header.section[i] = (rp_image_section){end, count[i]};
        end += count[i] * bytes[i];
    }
    header.size = (end + 7u) & ~7u;
    unsigned char *image = arena_get(e->t->arena, header.size);
    memcpy(image, &header, sizeof header);
    for (uint32_t i = 0; i < RP_SECTIONS; i++) {
        if (count[i] > 0) {
            memcpy(image + header.section[i].offset, section[i], count[i] * bytes[i]);
        }
    }
    header.memory = rp_image_memory((const rp_image_header *)(void *)image);
    memcpy(image, &header, sizeof header);
    header.checksum = rp_image_checksum(image, header.size);
    memcpy(image, &header, sizeof header);
    *size = header.size;
    return image;
}

void *emit_image(emitter *e, uint32_t *size)
{
    tree *t = e->t;
    rp_image_sensor *sensor = arena_get(t->arena, (t->count[SYMBOL_SENSOR] + 1u) * sizeof *sensor);
    rp_image_param *param = arena_get(t->arena, (t->count[SYMBOL_PARAM] + 1u) * sizeof *param);
    describe_channels(e, sensor, param);
    number_sensors(sensor, t->count[SYMBOL_SENSOR]);
    const run_lists runs = lay_runs(e);
    const void *const section[RP_SECTIONS] = {
        [RP_SECTION_SENSORS] = sensor,
        [RP_SECTION_ACTUATORS] = e->actuator,
        [RP_SECTION_PARAMS] = param,
        [RP_SECTION_CONSTANTS] = e->constant,
        [RP_SECTION_RUNS] = runs.run,
        [RP_SECTION_OPERANDS] = runs.operand,
        [RP_SECTION_PACES] = e->pace,
        [RP_SECTION_PACE_SENSORS] = e->pace_sensor,
        [RP_SECTION_PACE_STEPS] = runs.pace,
        [RP_SECTION_CONFIGS] = runs.config[0],
        [RP_SECTION_LIVE_CONFIGS] = runs.config[1],
        [RP_SECTION_PATCHES] = runs.patch,
        [RP_SECTION_CLAIMS] = e->claim,
        [RP_SECTION_ACTIONS] = e->action,
        [RP_SECTION_RULES] = e->rule,
        [RP_SECTION_NEEDS] = e->need,
        [RP_SECTION_GUARDS] = e->guard,
        [RP_SECTION_STATES] = e->state,
        [RP_SECTION_SEQUENCES] = e->sequence,
        [RP_SECTION_STEPS] = e->step,
        [RP_SECTION_STALLS] = e->stall,
        [RP_SECTION_STOPS] = e->stop,
        [RP_SECTION_KEEPS] = e->keep,
        [RP_SECTION_DRIVES] = e->drive,
        [RP_SECTION_LOOPS] = e->loop,
        [RP_SECTION_NAMES] = e->name,
        [RP_SECTION_TEXT] = e->text,
    };
    const uint32_t count[RP_SECTIONS] = {
        [RP_SECTION_SENSORS] = t->count[SYMBOL_SENSOR],
        [RP_SECTION_ACTUATORS] = t->count[SYMBOL_ACTUATOR],
        [RP_SECTION_PARAMS] = t->count[SYMBOL_PARAM],
        [RP_SECTION_CONSTANTS] = e->constants,
        [RP_SECTION_RUNS] = runs.runs,
        [RP_SECTION_OPERANDS] = runs.operands,
        [RP_SECTION_PACES] = e->paces,
        [RP_SECTION_PACE_SENSORS] = e->pace_sensors,
        [RP_SECTION_PACE_STEPS] = runs.paces,
        [RP_SECTION_CONFIGS] = runs.configs[0],
        [RP_SECTION_LIVE_CONFIGS] = runs.configs[1],
        [RP_SECTION_PATCHES] = runs.patches,
        [RP_SECTION_CLAIMS] = e->claims,
        [RP_SECTION_ACTIONS] = e->actions,
        [RP_SECTION_RULES] = t->rules,
        [RP_SECTION_NEEDS] = e->needs,
        [RP_SECTION_GUARDS] = e->guards,
        [RP_SECTION_STATES] = t->count[SYMBOL_STATE],
        [RP_SECTION_SEQUENCES] = t->sequences,
        [RP_SECTION_STEPS] = e->steps,
        [RP_SECTION_STALLS] = e->stalls,
        [RP_SECTION_STOPS] = t->stops,
        [RP_SECTION_KEEPS] = t->keeps,
        [RP_SECTION_DRIVES] = t->follows,
        [RP_SECTION_LOOPS] = t->loops,
        [RP_SECTION_NAMES] = e->names,
        [RP_SECTION_TEXT] = e->text_length,
    };
    for (uint32_t i = 0; i < RP_SECTIONS; i++) {
        if (i != RP_SECTION_TEXT && i != RP_SECTION_CONFIGS && count[i] >= RP_SLOTS_MAX) {
            report_error(t->report, (rp_span){0, 0}, "divide the rig", "this rig is too large for an image");
            return NULL;
        }
    }
    return lay_sections(e, section, count, size);
}
