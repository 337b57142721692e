/* The table of what in an image points where, and its check. */
#include "references.h"

#include <stddef.h>
#include <string.h>

/* Beside the rows of a section, what a field may point to: a slot; a slot or a constant. */
enum { TO_SLOT = RGP_SECTIONS, TO_REF };

#define ALWAYS  UINT32_MAX
#define BIT(n)  (1u << (n))
#define NO_KIND UINT16_MAX

typedef struct reference {
    uint8_t section, target;
    bool none;      /* RGP_REF_NONE is allowed */
    uint16_t field; /* offset of 16 bits */
    uint16_t kind;  /* offset of the 16 bits that say what row it is, where that matters */
    uint32_t kinds; /* bit k: of a row of kind k it is this reference */
} reference;

#define DRIVES_IT (BIT(RGP_ACTION_SET) | BIT(RGP_ACTION_TIMED) | BIT(RGP_ACTION_TOGGLE) | BIT(RGP_ACTION_STEP))
#define SEQUENCED (BIT(RGP_ACTION_BEGIN) | BIT(RGP_ACTION_FINISH))
#define LIMITS    (BIT(RGP_GUARD_ABOVE) | BIT(RGP_GUARD_BELOW))

#define ROW(SECTION, type, field, TARGET, none)                                                 \
    {                                                                                           \
        RGP_SECTION_##SECTION, TARGET, none, offsetof(rgp_image_##type, field), NO_KIND, ALWAYS \
    }
#define OF_KIND(SECTION, type, kind, kinds, field, TARGET, none)                                                  \
    {                                                                                                             \
        RGP_SECTION_##SECTION, TARGET, none, offsetof(rgp_image_##type, field), offsetof(rgp_image_##type, kind), \
            kinds                                                                                                 \
    }
#define ACTION(kinds, field, TARGET, none) OF_KIND(ACTIONS, action, kind, kinds, field, TARGET, none)
#define NEED(by_whom, TARGET)              OF_KIND(NEEDS, need, by, BIT(by_whom), index, TARGET, false)
#define GUARD(kinds, field, TARGET)        OF_KIND(GUARDS, guard, side, kinds, field, TARGET, false)
#define STEP(kinds, field, TARGET, none)   OF_KIND(STEPS, step, kind, kinds, field, TARGET, none)

static const reference references[] = {
    {RGP_SECTION_PACE_SENSORS, RGP_SECTION_SENSORS, false, 0, NO_KIND, ALWAYS},
    ROW(PATCHES, patch, param, RGP_SECTION_PARAMS, false),
    ROW(CLAIMS, claim, actuator, RGP_SECTION_ACTUATORS, false),
    ACTION(DRIVES_IT, claim, RGP_SECTION_CLAIMS, false),
    ACTION(BIT(RGP_ACTION_PARAM), claim, RGP_SECTION_PARAMS, false),
    ACTION(SEQUENCED, claim, RGP_SECTION_SEQUENCES, false),
    ACTION(BIT(RGP_ACTION_STATE), claim, RGP_SECTION_STATES, false),
    ACTION(DRIVES_IT | SEQUENCED | BIT(RGP_ACTION_PARAM) | BIT(RGP_ACTION_STATE), value, TO_REF, false),
    ACTION(BIT(RGP_ACTION_MARK), value, TO_REF, true),
    ACTION(BIT(RGP_ACTION_RELEARN), value, TO_SLOT, false),
    ACTION(BIT(RGP_ACTION_TIMED), duration, TO_REF, false),
    ACTION(BIT(RGP_ACTION_TIMED), period, TO_REF, false),
    ROW(RULES, rule, trigger, TO_REF, true),
    ROW(RULES, rule, holdoff, TO_REF, false),
    ROW(NEEDS, need, sensor, RGP_SECTION_SENSORS, false),
    NEED(RGP_NEEDED_BY_RULE, RGP_SECTION_RULES),
    NEED(RGP_NEEDED_BY_DRIVE, RGP_SECTION_DRIVES),
    NEED(RGP_NEEDED_BY_SEQUENCE, RGP_SECTION_SEQUENCES),
    ROW(GUARDS, guard, actuator, RGP_SECTION_ACTUATORS, false),
    GUARD(LIMITS | BIT(RGP_GUARD_REST), condition, TO_SLOT),
    GUARD(BIT(RGP_GUARD_WITH), condition, RGP_SECTION_ACTUATORS),
    GUARD(LIMITS, limit, TO_REF),
    OF_KIND(STATES, state, kind, BIT(RGP_STATE_SEQUENCE), of, RGP_SECTION_SEQUENCES, false),
    ROW(SEQUENCES, sequence, state, RGP_SECTION_STATES, false),
    ROW(SEQUENCES, sequence, condition, TO_SLOT, true),
    STEP(BIT(RGP_STEP_DO), what, RGP_SECTION_ACTIONS, false),
    STEP(BIT(RGP_STEP_AWAIT), what, TO_SLOT, false),
    STEP(BIT(RGP_STEP_GO) | BIT(RGP_STEP_CYCLE), what, TO_SLOT, true),
    STEP(BIT(RGP_STEP_DWELL), value, TO_REF, false),
    STEP(BIT(RGP_STEP_AWAIT) | BIT(RGP_STEP_CYCLE), value, TO_REF, true),
    ROW(STALLS, stall, actuator, RGP_SECTION_ACTUATORS, false),
    ROW(STALLS, stall, value, TO_SLOT, false),
    ROW(STOPS, stop, condition, TO_SLOT, false),
    ROW(STOPS, stop, release, TO_SLOT, true),
    ROW(RETAINED, retained, slot, TO_SLOT, false),
    ROW(DRIVES, drive, claim, RGP_SECTION_CLAIMS, false),
    ROW(DRIVES, drive, value, TO_SLOT, false),
    ROW(DRIVES, drive, actuator, RGP_SECTION_ACTUATORS, false),
    ROW(DRIVES, drive, condition, TO_SLOT, true),
    ROW(LOOPS, loop, claim, RGP_SECTION_CLAIMS, false),
    ROW(LOOPS, loop, actuator, RGP_SECTION_ACTUATORS, false),
    ROW(LOOPS, loop, measured, TO_REF, false),
    ROW(LOOPS, loop, setpoint, TO_REF, false),
    ROW(LOOPS, loop, trim, RGP_SECTION_PARAMS, false),
    ROW(LOOPS, loop, bias, RGP_SECTION_PARAMS, false),
    ROW(LOOPS, loop, gain[0], RGP_SECTION_PARAMS, true),
    ROW(LOOPS, loop, gain[1], RGP_SECTION_PARAMS, true),
    ROW(LOOPS, loop, gain[2], RGP_SECTION_PARAMS, true),
    ROW(LOOPS, loop, condition, TO_SLOT, true),
};

/* Fields that say what kind of row it is, and how many kinds there are. */
typedef struct kind_field {
    uint8_t section;
    uint16_t field, kinds;
} kind_field;

static const kind_field kind_fields[] = {
    {RGP_SECTION_ACTIONS, offsetof(rgp_image_action, kind), RGP_ACTIONS},
    {RGP_SECTION_NEEDS, offsetof(rgp_image_need, by), RGP_NEEDED_BY},
    {RGP_SECTION_GUARDS, offsetof(rgp_image_guard, side), RGP_GUARD_SIDES},
    {RGP_SECTION_STATES, offsetof(rgp_image_state, kind), RGP_STATES},
    {RGP_SECTION_STEPS, offsetof(rgp_image_step, kind), RGP_STEPS},
    {RGP_SECTION_NAMES, offsetof(rgp_image_name, kind), RGP_NAMES},
};

static uint16_t read_field(const rgp_image_header *image, uint32_t section, uint32_t row, uint32_t field)
{
    static const uint32_t row_bytes[RGP_SECTIONS] = {
#define RGP_SECTION_BYTES(name, type) sizeof(type),
        RGP_SECTION_LIST(RGP_SECTION_BYTES)
#undef RGP_SECTION_BYTES
    };
    uint16_t value;
    memcpy(&value, (const unsigned char *)rgp_image_at(image, section) + row * row_bytes[section] + field,
           sizeof value);
    return value;
}

static bool points_somewhere(const rgp_image_header *image, const reference *r, uint16_t value)
{
    if (value == RGP_REF_NONE && r->none) {
        return true;
    }
    return r->target == TO_REF    ? rgp__image_has_ref(image, value)
           : r->target == TO_SLOT ? value < image->slots
                                  : value < rgp_image_count(image, r->target);
}

static bool applies(const rgp_image_header *image, const reference *r, uint32_t row)
{
    return r->kind == NO_KIND || r->kinds & BIT(read_field(image, r->section, row, r->kind));
}

static bool kinds_are_known(const rgp_image_header *image, rgp_image_fault *fault)
{
    bool known = true;
    for (uint32_t i = 0; known && i < sizeof kind_fields / sizeof *kind_fields; i++) {
        const kind_field *k = &kind_fields[i];
        for (uint32_t row = 0; known && row < rgp_image_count(image, k->section); row++) {
            known = read_field(image, k->section, row, k->field) < k->kinds;
            *fault = (rgp_image_fault){k->section, row};
        }
    }
    return known;
}

rgp_status rgp__image_check_references(const rgp_image_header *image, rgp_image_fault *fault)
{
    bool sound = kinds_are_known(image, fault); /* before one of them is taken for a bit */
    for (uint32_t i = 0; sound && i < sizeof references / sizeof *references; i++) {
        const reference *r = &references[i];
        for (uint32_t row = 0; sound && row < rgp_image_count(image, r->section); row++) {
            sound = !applies(image, r, row) || points_somewhere(image, r, read_field(image, r->section, row, r->field));
            *fault = (rgp_image_fault){r->section, row};
        }
    }
    return sound ? RGP_OK : RGP_E_INDEX;
}
