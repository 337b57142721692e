/* Which sensors are new in this tick, and with them the paces of what steps on new readings only. */
#include "begin.h"
#include "phase.h"

#include <string.h>

/* The newness of eight sensors is looked at in one go; bytes behind the last sensor are always 0. */
typedef union eight {
    uint8_t byte[8];
    uint64_t all;
} eight;

static eight eight_of(const uint8_t *at)
{
    eight is;
    memcpy(is.byte, at, sizeof is);
    return is;
}

/* FORMERLY for as many as there are. */
static eight formerly(uint32_t sensors)
{
    static const uint8_t some[15] = {1, 1, 1, 1, 1, 1, 1, 1};
    return eight_of(some + 8 - (sensors < 8 ? sensors : 8));
}

_Static_assert(RGP__SENSOR_FORMERLY == 1 && RGP__SENSOR_STANDS == 2 && RGP__SENSOR_PLAIN == 4,
               "shifted by one, formerly becomes standing");

/* As if every sensor had been old before: the first tick then knows by what is handed in who is new. */
void rgp__begin_newness(rgp_engine *e)
{
    memset(part_newness(e), RGP__SENSOR_FORMERLY, COUNT(e, SENSORS));
}

bool rgp_engine_is_new(const rgp_engine *e, uint16_t sensor)
{
    return sensor < COUNT(e, SENSORS) && part_head(e)->ticks > 0 && !(part_newness(e)[sensor] & RGP__SENSOR_STANDS);
}

/* True when one stands. */
static bool age_all(rgp_engine *e)
{
    static const eight plain = {{4, 4, 4, 4, 4, 4, 4, 4}};
    uint8_t *at = part_newness(e);
    uint64_t standing = 0;
    for (uint32_t sensors = COUNT(e, SENSORS); sensors > 0; at += 8, sensors = sensors > 8 ? sensors - 8 : 0) {
        const eight mask = formerly(sensors);
        eight now = eight_of(at);
        const uint64_t stands = now.all & mask.all;
        standing |= stands;
        now.all = (now.all & plain.all) | stands << 1 | mask.all;
        memcpy(at, now.byte, sizeof now);
    }
    return standing != 0;
}

/* A sensor is new when it was handed in; and when it is bad, so that bad stretches act tick by tick. */
static bool is_fresh(const rgp_engine *e, const rgp_image_pace *pace)
{
    const uint16_t *sensor = image_PACE_SENSORS(e) + pace->first;
    const rgp_quality *const quality = e->quality + rgp_image_sensor_slot(e->image, 0);
    const uint8_t *const newness = part_newness(e);
    uint32_t i = 0;
    while (i < pace->sensors && newness[sensor[i]] & RGP__SENSOR_STANDS && rgp_usable(quality[sensor[i]])) {
        i++;
    }
    return i < pace->sensors;
}

/* The time since the last new reading is summed in whole microseconds and becomes a float once: three ticks of a third
 * are one tick, bit for bit. */
static void sum_paces(rgp_engine *e, rgp__engine_head *head)
{
    const rgp_image_pace *from = image_PACES(e);
    rgp__pace *pace = part_pace(e);
    head->behind = 0;
    for (uint32_t i = 0; i < COUNT(e, PACES); i++) {
        pace[i].fresh = is_fresh(e, &from[i]);
        pace[i].since_us += head->passed_us;
        if (pace[i].fresh) {
            pace[i].dt = rgp_seconds(pace[i].since_us);
            pace[i].since_us = 0;
        }
        head->behind |= !pace[i].fresh;
    }
}

/* Every pace is the tick's while all sensors are new, and were so in the last tick. */
void rgp__phase_pace(rgp_engine *e)
{
    rgp__engine_head *const head = part_head(e);
    const bool some_stand = age_all(e);
    head->lags = some_stand || head->behind;
    if (head->lags) {
        sum_paces(e, head);
    }
}
