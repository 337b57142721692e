/* Commands held against an image, and obeyed by an engine. */
#include "rigpulse/command.h"

const char *rgp_command_word(uint8_t what)
{
    static const char *const word[RGP_COMMANDS] = {
#define RGP_COMMAND_WORD(name, text) text,
        RGP_COMMAND_LIST(RGP_COMMAND_WORD)
#undef RGP_COMMAND_WORD
    };
    return what < RGP_COMMANDS ? word[what] : "?";
}

const char *rgp_author_word(uint8_t by)
{
    static const char *const word[RGP_AUTHORS] = {"person", "script", "port"};
    return by < RGP_AUTHORS ? word[by] : "?";
}

static rgp_status check_value(float value, float low, float high, bool whole)
{
    const bool fits = value >= low && value <= high && (!whole || value == (float)(int32_t)value);
    return fits ? RGP_OK : RGP_E_RANGE;
}

static rgp_status check_param(const rgp_image_header *image, const rgp_command *c)
{
    const rgp_image_param *param = rgp_image_at(image, RGP_SECTION_PARAMS);
    return c->which < rgp_image_count(image, RGP_SECTION_PARAMS)
               ? check_value(c->value, param[c->which].low, param[c->which].high, false)
               : RGP_E_INDEX;
}

static rgp_status check_actuator(const rgp_image_header *image, const rgp_command *c)
{
    const rgp_image_actuator *a = rgp_image_at(image, RGP_SECTION_ACTUATORS);
    if (c->which >= rgp_image_count(image, RGP_SECTION_ACTUATORS)) {
        return RGP_E_INDEX;
    }
    return c->what != RGP_COMMAND_HAND && c->what != RGP_COMMAND_HOLD
               ? RGP_OK
               : check_value(c->value, a[c->which].low, a[c->which].high, a[c->which].kind != RGP_ACTUATOR_NUMBER);
}

rgp_status rgp_command_check(const rgp_image_header *image, const rgp_command *c)
{
    switch (c->what) {
    case RGP_COMMAND_SET:
        return check_param(image, c);
    case RGP_COMMAND_HAND:
    case RGP_COMMAND_HOLD:
    case RGP_COMMAND_RELEASE:
    case RGP_COMMAND_LOSE:
    case RGP_COMMAND_REGAIN:
        return check_actuator(image, c);
    case RGP_COMMAND_RELEARN:
        return c->which < image->slots ? RGP_OK : RGP_E_INDEX;
    case RGP_COMMAND_BOUND:
        return check_value(c->value, 0.0f, 100.0f, false);
    case RGP_COMMAND_PLACE:
    case RGP_COMMAND_LET_GO:
        return c->which < rgp_image_count(image, RGP_SECTION_SENSORS) ? RGP_OK : RGP_E_INDEX;
    default:
        return c->what < RGP_COMMANDS ? RGP_OK : RGP_E_INDEX;
    }
}

rgp_status rgp_command_obey(rgp_engine *e, const rgp_command *c)
{
    switch (c->what) {
    case RGP_COMMAND_SET:
        return rgp_engine_set(e, c->which, c->value);
    case RGP_COMMAND_HAND:
    case RGP_COMMAND_HOLD:
        return rgp_engine_hand(e, c->which, c->value);
    case RGP_COMMAND_RELEASE:
        return rgp_engine_release(e, c->which);
    case RGP_COMMAND_RELEARN:
        return rgp_engine_relearn(e, c->which);
    case RGP_COMMAND_BOUND:
        return rgp_engine_bound(e, c->value);
    case RGP_COMMAND_LOSE:
        return rgp_engine_lose(e, c->which);
    case RGP_COMMAND_REGAIN:
        return rgp_engine_regain(e, c->which);
    case RGP_COMMAND_STOP:
        rgp_engine_stop(e);
        return RGP_OK;
    case RGP_COMMAND_RESUME:
        rgp_engine_resume(e);
        return RGP_OK;
    case RGP_COMMAND_CLEAR:
        rgp_engine_clear(e);
        return RGP_OK;
    default:
        return RGP_E_INDEX;
    }
}
