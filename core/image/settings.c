/* The settings of operations as a table, made from the lists of their blocks. */
#include "settings.h"

#include "ops.h"

#include "rigpulse/inside/settings.h"

/* Each limit as a row: low end, high end, is the low end left out, is 0 left out, do only odd numbers count. */
#define ENDS_NUMBER(low, high)        -RGP_ANYTHING, RGP_ANYTHING, false, false, false
#define ENDS_ABOVE(low, high)         (float)(low), RGP_ANYTHING, true, false, false
#define ENDS_FROM(low, high)          (float)(low), RGP_ANYTHING, false, false, false
#define ENDS_NOT_0(low, high)         -RGP_ANYTHING, RGP_ANYTHING, false, true, false
#define ENDS_OVER_UPTO(low, high)     (float)(low), (float)(high), true, false, false
#define ENDS_FROM_TO(low, high)       (float)(low), (float)(high), false, false, false
#define ENDS_FROM_TO_NOT_0(low, high) (float)(low), (float)(high), false, true, false
#define ENDS_ODD(low, high)           (float)(low), (float)(high), false, false, true
#define ENDS_UPTO(low, high)          ENDS_FROM_TO(low, high)
#define ENDS_ONE_OF(low, high)        ENDS_FROM_TO(low, high)
#define ENDS_ZERO(low, high)          ENDS_FROM_TO(low, high)
#define ENDS_ANY(low, high)           ENDS_NUMBER(low, high)
#define ENDS_LIST(low, high)          ENDS_NUMBER(low, high)

#define FIELD(block, in, field)       (((rgp_##block##_config *)0)->in field)

/* A row for each setting, and behind them one without a name. */
#define ROW(block, in, type, field, live, LIMIT, low, high, what)                                          \
    {#field, (uint16_t)offsetof(rgp_##block##_config, in field), (uint16_t)sizeof FIELD(block, in, field), \
     ENDS_##LIMIT(low, high)},
#define RGP_OP(NAME, shape, block, ...) \
    static const rgp_op_setting settings_of_##NAME[] = {RGP_SETTINGS_##shape(ROW, block){0}};
#include "ops.def"

/* A list names each field of the config, with its type: an array by that of its elements. */
#define IS_TYPED(block, in, type, field, ...) \
    &&_Generic(FIELD(block, in, field), type : true, type * : true, default : false)
#define HELD(block, in, type, field, ...) +sizeof FIELD(block, in, field)
#define INSIST_CONFIG(block, list)                                                            \
    _Static_assert(true list(IS_TYPED, block, ), "a setting of " #block " has another type"); \
    _Static_assert(sizeof(rgp_##block##_config) == 0 list(HELD, block, ), "a setting of " #block " is missing");
#define INSIST_STAGE(block)  INSIST_CONFIG(block, rgp_##block##_settings)
#define INSIST_PAIR(block)   INSIST_STAGE(block)
#define INSIST_EDGES(block)  INSIST_STAGE(block)
#define INSIST_EDGES2(block) INSIST_STAGE(block)
#define INSIST_LOOP(block)   INSIST_STAGE(block)
#define INSIST_MAP(block)    INSIST_STAGE(block)
#define INSIST_MAP3(block)   INSIST_STAGE(block)
#define INSIST_JOIN(block)
#define RGP_OP(NAME, shape, block, ...) INSIST_##shape(block)
#include "ops.def"

static const rgp_op_setting *const settings_of[RGP_OPS] = {
#define RGP_OP(NAME, ...) settings_of_##NAME,
#include "ops.def"
};

const rgp_op_setting *rgp_op_setting_at(uint32_t op, uint32_t offset)
{
    const rgp_op_setting *s = settings_of[op];
    while (s->name && s->offset != offset) {
        s++;
    }
    return s->name ? s : NULL;
}
