#include "rigpulse/command.h"

const char *rp_command_word(uint8_t what)
{
    static const char *const word[RP_COMMANDS] = {
#define RP_COMMAND_WORD(name, text) text,
        RP_COMMAND_LIST(RP_COMMAND_WORD)
#undef RP_COMMAND_WORD
    };
    return what < RP_COMMANDS ? word[what] : "?";
}

const char *rp_author_word(uint8_t by)
{
    static const char *const word[RP_AUTHORS] = {"person", "script"};
    return by < RP_AUTHORS ? word[by] : "?";
}

static rp_status check_value(float value, float low, float high, bool whole)
{
    const bool fits = value >= low && value <= high && (!whole || value == (float)(int32_t)value);
    return fits ? RP_OK : RP_E_RANGE;
}

static rp_status check_param(const rp_image_header *image, const rp_command *c)
{
    const rp_image_param *param = rp_image_at(image, RP_SECTION_PARAMS);
    return c->which < rp_image_count(image, RP_SECTION_PARAMS)
               ? check_value(c->value, param[c->which].low, param[c->which].high, false)
               : RP_E_INDEX;
}

static rp_status check_actuator(const rp_image_header *image, const rp_command *c)
{
    const rp_image_actuator *a = rp_image_at(image, RP_SECTION_ACTUATORS);
    if (c->which >= rp_image_count(image, RP_SECTION_ACTUATORS)) {
        return RP_E_INDEX;
    }
    return c->what == RP_COMMAND_RELEASE
               ? RP_OK
               : check_value(c->value, a[c->which].low, a[c->which].high, a[c->which].kind != RP_ACTUATOR_NUMBER);
}

rp_status rp_command_check(const rp_image_header *image, const rp_command *c)
{
    switch (c->what) {
    case RP_COMMAND_SET:
        return check_param(image, c);
    case RP_COMMAND_HAND:
    case RP_COMMAND_HOLD:
    case RP_COMMAND_RELEASE:
        return check_actuator(image, c);
    case RP_COMMAND_RELEARN:
        return c->which < image->slots ? RP_OK : RP_E_INDEX;
    case RP_COMMAND_BOUND:
        return check_value(c->value, 0.0f, 100.0f, false);
    case RP_COMMAND_PLACE:
    case RP_COMMAND_LET_GO:
        return c->which < rp_image_count(image, RP_SECTION_SENSORS) ? RP_OK : RP_E_INDEX;
    default:
        return c->what < RP_COMMANDS ? RP_OK : RP_E_INDEX;
    }
}

rp_status rp_command_obey(rp_engine *e, const rp_command *c)
{
    switch (c->what) {
    case RP_COMMAND_SET:
        return rp_engine_set(e, c->which, c->value);
    case RP_COMMAND_HAND:
    case RP_COMMAND_HOLD:
        return rp_engine_hand(e, c->which, c->value);
    case RP_COMMAND_RELEASE:
        return rp_engine_release(e, c->which);
    case RP_COMMAND_RELEARN:
        return rp_engine_relearn(e, c->which);
    case RP_COMMAND_BOUND:
        return rp_engine_bound(e, c->value);
    case RP_COMMAND_STOP:
        rp_engine_stop(e);
        return RP_OK;
    case RP_COMMAND_RESUME:
        rp_engine_resume(e);
        return RP_OK;
    case RP_COMMAND_CLEAR:
        rp_engine_clear(e);
        return RP_OK;
    default:
        return RP_E_INDEX;
    }
}
