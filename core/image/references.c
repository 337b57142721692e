#include "references.h"

#include <stddef.h>
#include <string.h>

/* Beside the rows of a section, what a field may point to: a slot; a slot or a constant. */
enum { TO_SLOT = RP_SECTIONS, TO_REF };

#define ALWAYS  UINT32_MAX
#define BIT(n)  (1u << (n))
#define NO_KIND UINT16_MAX

typedef struct reference {
    uint8_t section, target;
    bool none;      /* RP_REF_NONE is allowed */
    uint16_t field; /* offset of 16 bits */
    uint16_t kind;  /* offset of the 16 bits that say what row it is, where that matters */
    uint32_t kinds; /* bit k: of a row of kind k it is this reference */
} reference;

#define DRIVES_IT (BIT(RP_ACTION_SET) | BIT(RP_ACTION_TIMED) | BIT(RP_ACTION_TOGGLE) | BIT(RP_ACTION_STEP))
#define SEQUENCED (BIT(RP_ACTION_BEGIN) | BIT(RP_ACTION_FINISH))
#define LIMITS    (BIT(RP_GUARD_ABOVE) | BIT(RP_GUARD_BELOW))

#define ROW(SECTION, type, field, TARGET, none)                                               \
    {                                                                                         \
        RP_SECTION_##SECTION, TARGET, none, offsetof(rp_image_##type, field), NO_KIND, ALWAYS \
    }
#define OF_KIND(SECTION, type, kind, kinds, field, TARGET, none)                                                     \
    {                                                                                                                \
        RP_SECTION_##SECTION, TARGET, none, offsetof(rp_image_##type, field), offsetof(rp_image_##type, kind), kinds \
    }
#define ACTION(kinds, field, TARGET, none) OF_KIND(ACTIONS, action, kind, kinds, field, TARGET, none)
#define NEED(by_whom, TARGET)              OF_KIND(NEEDS, need, by, BIT(by_whom), index, TARGET, false)
#define GUARD(kinds, field, TARGET)        OF_KIND(GUARDS, guard, side, kinds, field, TARGET, false)
#define STEP(kinds, field, TARGET, none)   OF_KIND(STEPS, step, kind, kinds, field, TARGET, none)

static const reference references[] = {
    {RP_SECTION_PACE_SENSORS, RP_SECTION_SENSORS, false, 0, NO_KIND, ALWAYS},
    ROW(PATCHES, patch, param, RP_SECTION_PARAMS, false),
    ROW(CLAIMS, claim, actuator, RP_SECTION_ACTUATORS, false),
    ACTION(DRIVES_IT, claim, RP_SECTION_CLAIMS, false),
    ACTION(BIT(RP_ACTION_PARAM), claim, RP_SECTION_PARAMS, false),
    ACTION(SEQUENCED, claim, RP_SECTION_SEQUENCES, false),
    ACTION(BIT(RP_ACTION_STATE), claim, RP_SECTION_STATES, false),
    ACTION(DRIVES_IT | SEQUENCED | BIT(RP_ACTION_PARAM) | BIT(RP_ACTION_STATE), value, TO_REF, false),
    ACTION(BIT(RP_ACTION_MARK), value, TO_REF, true),
    ACTION(BIT(RP_ACTION_RELEARN), value, TO_SLOT, false),
    ACTION(BIT(RP_ACTION_TIMED), duration, TO_REF, false),
    ACTION(BIT(RP_ACTION_TIMED), period, TO_REF, false),
    ROW(RULES, rule, trigger, TO_REF, true),
    ROW(RULES, rule, holdoff, TO_REF, false),
    ROW(NEEDS, need, sensor, RP_SECTION_SENSORS, false),
    NEED(RP_NEEDED_BY_RULE, RP_SECTION_RULES),
    NEED(RP_NEEDED_BY_DRIVE, RP_SECTION_DRIVES),
    NEED(RP_NEEDED_BY_SEQUENCE, RP_SECTION_SEQUENCES),
    ROW(GUARDS, guard, actuator, RP_SECTION_ACTUATORS, false),
    GUARD(LIMITS | BIT(RP_GUARD_REST), condition, TO_SLOT),
    GUARD(BIT(RP_GUARD_WITH), condition, RP_SECTION_ACTUATORS),
    GUARD(LIMITS, limit, TO_REF),
    OF_KIND(STATES, state, kind, BIT(RP_STATE_SEQUENCE), of, RP_SECTION_SEQUENCES, false),
    ROW(SEQUENCES, sequence, state, RP_SECTION_STATES, false),
    ROW(SEQUENCES, sequence, only, TO_SLOT, true),
    STEP(BIT(RP_STEP_DO), what, RP_SECTION_ACTIONS, false),
    STEP(BIT(RP_STEP_AWAIT), what, TO_SLOT, false),
    STEP(BIT(RP_STEP_GO) | BIT(RP_STEP_CYCLE), what, TO_SLOT, true),
    STEP(BIT(RP_STEP_DWELL), value, TO_REF, false),
    STEP(BIT(RP_STEP_AWAIT) | BIT(RP_STEP_CYCLE), value, TO_REF, true),
    ROW(STALLS, stall, actuator, RP_SECTION_ACTUATORS, false),
    ROW(STALLS, stall, value, TO_SLOT, false),
    ROW(STOPS, stop, condition, TO_SLOT, false),
    ROW(STOPS, stop, release, TO_SLOT, true),
    ROW(KEEPS, keep, slot, TO_SLOT, false),
    ROW(DRIVES, drive, claim, RP_SECTION_CLAIMS, false),
    ROW(DRIVES, drive, value, TO_SLOT, false),
    ROW(DRIVES, drive, actuator, RP_SECTION_ACTUATORS, false),
    ROW(DRIVES, drive, only, TO_SLOT, true),
    ROW(LOOPS, loop, claim, RP_SECTION_CLAIMS, false),
    ROW(LOOPS, loop, actuator, RP_SECTION_ACTUATORS, false),
    ROW(LOOPS, loop, measured, TO_REF, false),
    ROW(LOOPS, loop, setpoint, TO_REF, false),
    ROW(LOOPS, loop, trim, RP_SECTION_PARAMS, false),
    ROW(LOOPS, loop, push, RP_SECTION_PARAMS, false),
    ROW(LOOPS, loop, gain[0], RP_SECTION_PARAMS, true),
    ROW(LOOPS, loop, gain[1], RP_SECTION_PARAMS, true),
    ROW(LOOPS, loop, gain[2], RP_SECTION_PARAMS, true),
    ROW(LOOPS, loop, only, TO_SLOT, true),
};

/* Fields that say what kind of row it is, and how many kinds there are. */
typedef struct kind_field {
    uint8_t section;
    uint16_t field, kinds;
} kind_field;

static const kind_field kind_fields[] = {
    {RP_SECTION_ACTIONS, offsetof(rp_image_action, kind), RP_ACTIONS},
    {RP_SECTION_NEEDS, offsetof(rp_image_need, by), RP_NEEDED_BY},
    {RP_SECTION_GUARDS, offsetof(rp_image_guard, side), RP_GUARD_SIDES},
    {RP_SECTION_STATES, offsetof(rp_image_state, kind), RP_STATES},
    {RP_SECTION_STEPS, offsetof(rp_image_step, kind), RP_STEPS},
    {RP_SECTION_NAMES, offsetof(rp_image_name, kind), RP_NAMES},
};

static uint16_t read_field(const rp_image_header *image, uint32_t section, uint32_t row, uint32_t field)
{
    static const uint32_t row_bytes[RP_SECTIONS] = {
#define RP_SECTION_BYTES(name, type) sizeof(type),
        RP_SECTION_LIST(RP_SECTION_BYTES)
#undef RP_SECTION_BYTES
    };
    uint16_t value;
    memcpy(&value, (const unsigned char *)rp_image_at(image, section) + row * row_bytes[section] + field, sizeof value);
    return value;
}

static bool points_somewhere(const rp_image_header *image, const reference *r, uint16_t value)
{
    if (value == RP_REF_NONE && r->none) {
        return true;
    }
    return r->target == TO_REF    ? rp_image_has_ref(image, value)
           : r->target == TO_SLOT ? value < image->slots
                                  : value < rp_image_count(image, r->target);
}

static bool applies(const rp_image_header *image, const reference *r, uint32_t row)
{
    return r->kind == NO_KIND || r->kinds & BIT(read_field(image, r->section, row, r->kind));
}

static bool kinds_are_known(const rp_image_header *image, rp_image_fault *fault)
{
    bool known = true;
    for (uint32_t i = 0; known && i < sizeof kind_fields / sizeof *kind_fields; i++) {
        const kind_field *k = &kind_fields[i];
        for (uint32_t row = 0; known && row < rp_image_count(image, k->section); row++) {
            known = read_field(image, k->section, row, k->field) < k->kinds;
            *fault = (rp_image_fault){k->section, row};
        }
    }
    return known;
}

rp_status rp_image_check_references(const rp_image_header *image, rp_image_fault *fault)
{
    bool sound = kinds_are_known(image, fault); /* before one of them is taken for a bit */
    for (uint32_t i = 0; sound && i < sizeof references / sizeof *references; i++) {
        const reference *r = &references[i];
        for (uint32_t row = 0; sound && row < rp_image_count(image, r->section); row++) {
            sound = !applies(image, r, row) || points_somewhere(image, r, read_field(image, r->section, row, r->field));
            *fault = (rp_image_fault){r->section, row};
        }
    }
    return sound ? RP_OK : RP_E_INDEX;
}
