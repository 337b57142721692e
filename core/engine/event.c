/* The word, the subject and the line of an event. */
#include "rigpulse/engine.h"

const char *rgp_event_word(uint8_t kind)
{
    static const char *const word[RGP_EVENTS] = {
#define RGP_EVENT_WORD(name, text) text,
        RGP_EVENT_LIST(RGP_EVENT_WORD)
#undef RGP_EVENT_WORD
    };
    return kind < RGP_EVENTS ? word[kind] : "?";
}

bool rgp_event_is_fault(const rgp_event *event)
{
    switch (event->kind) {
    case RGP_EVENT_FAULT:
    case RGP_EVENT_GAVE_UP:
    case RGP_EVENT_FAILED:
    case RGP_EVENT_STALLED:
    case RGP_EVENT_LOST:
        return true;
    default:
        return event->kind == RGP_EVENT_TRIPPED && event->value == 0.0f;
    }
}

/* The thing that `source` counts depends on the kind: rules, claims, slots, sensors, actuators, sequences, loops, ... A
 * storm is about the kind that it sums up. */
static const rgp_image_name *name_of_event(const rgp_image_header *image, const rgp_event *event)
{
    const rgp_image_claim *claim = rgp_image_at(image, RGP_SECTION_CLAIMS);
    switch (event->kind == RGP_EVENT_STORM ? event->reason : event->kind) {
    case RGP_EVENT_FIRED:
    case RGP_EVENT_DROPPED:
        return rgp_image_name_of(image, RGP_NAME_RULE, event->source, 0);
    case RGP_EVENT_ENDED:
        return rgp_image_name_of(image, RGP_NAME_SLOT, rgp_image_actuator_slot(image, claim[event->source].actuator),
                                 0);
    case RGP_EVENT_MARK:
        return rgp_image_name_of(image, RGP_NAME_MARK, event->source, 0);
    case RGP_EVENT_PARAM:
    case RGP_EVENT_LEARNED:
    case RGP_EVENT_GAVE_UP:
        return rgp_image_name_of(image, RGP_NAME_SLOT, event->source, 0);
    case RGP_EVENT_SENSOR:
    case RGP_EVENT_EDGE:
    case RGP_EVENT_OVERFLOW:
    case RGP_EVENT_FAULT:
    case RGP_EVENT_RECOVERED:
        return rgp_image_name_of(image, RGP_NAME_SLOT, rgp_image_sensor_slot(image, event->source), 0);
    case RGP_EVENT_GUARD:
        return rgp_image_name_of(image, RGP_NAME_GUARD, event->source, 0);
    case RGP_EVENT_BEGUN:
    case RGP_EVENT_FINISHED:
    case RGP_EVENT_FAILED:
        return rgp_image_name_of(image, RGP_NAME_SEQUENCE, event->source, 0);
    case RGP_EVENT_ENGAGED:
    case RGP_EVENT_HELD:
    case RGP_EVENT_TRIPPED:
        return rgp_image_name_of(image, RGP_NAME_LOOP, event->source, 0);
    case RGP_EVENT_STALLED:
        return rgp_image_name_of(image, RGP_NAME_STALL, event->source, 0);
    case RGP_EVENT_STOPPED:
    case RGP_EVENT_RESUMED:
        return event->source == RGP_REF_NONE ? rgp_image_name_of(image, RGP_NAME_RIG, 0, 0)
                                             : rgp_image_name_of(image, RGP_NAME_STOP, event->source, 0);
    case RGP_EVENT_ON_TIME_LIMIT:
    case RGP_EVENT_DUTY_LIMIT:
    case RGP_EVENT_HAND:
    case RGP_EVENT_RELEASED:
    case RGP_EVENT_LOST:
    case RGP_EVENT_REGAINED:
        return rgp_image_name_of(image, RGP_NAME_SLOT, rgp_image_actuator_slot(image, event->source), 0);
    default:
        return rgp_image_name_of(image, RGP_NAME_RIG, 0, 0);
    }
}

const char *rgp_event_subject(const rgp_image_header *image, const rgp_event *event)
{
    const rgp_image_name *name = name_of_event(image, event);
    return name ? (const char *)rgp_image_at(image, RGP_SECTION_TEXT) + name->text : "?";
}

uint32_t rgp_event_line(const rgp_image_header *image, const rgp_event *event)
{
    const rgp_image_name *name = name_of_event(image, event);
    return name && name->kind != RGP_NAME_RIG ? name->line : 0;
}
