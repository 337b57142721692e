/* A hook-up to devices held against what can be, before any of them is opened. */
#include "serial.h"

#include "tty.h"
#include "words.h"

#include "rigpulse/image.h"

#include <gio/gio.h>

typedef struct checking {
    const rgp_rig *rig;
    const rgp_hookup *hookup;
    GError **error;
} checking;

static bool refuse(const checking *c, uint32_t line, const char *format, ...) G_GNUC_PRINTF(3, 4);

static bool refuse(const checking *c, uint32_t line, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    g_autofree char *text = g_strdup_vprintf(format, arguments);
    va_end(arguments);
    g_set_error(c->error, G_IO_ERROR, G_IO_ERROR_INVALID_ARGUMENT, "%s:%u: %s", c->rig->file, line, text);
    return false;
}

static bool check_device(const checking *c, const rgp_mechanism_item *is)
{
    const unsigned speed = (unsigned)is->value[DEVICE_SPEED];
    if (!is->text[DEVICE_PATH] || !*is->text[DEVICE_PATH]) {
        return refuse(c, is->line, "'%s' has no path; for instance: path \"/dev/ttyUSB0\"", is->name);
    }
    if (!tty_knows_speed(speed) || is->value[DEVICE_SPEED] != speed) {
        g_autofree char *all = tty_speeds();
        return refuse(c, is->line, "'%s': there is no speed %g; there are %s", is->name, is->value[DEVICE_SPEED], all);
    }
    if (is->value[DEVICE_CR] != 0.0 && is->value[DEVICE_CRLF] != 0.0) {
        return refuse(c, is->line, "'%s': take either 'cr' or 'crlf'", is->name);
    }
    if (is->text[DEVICE_COMMENT] && !*is->text[DEVICE_COMMENT]) {
        return refuse(c, is->line, "'%s': every line would be a comment", is->name);
    }
    return true;
}

static bool check_takes(const checking *c, const rgp_sensor_item *is)
{
    const rgp_image_sensor *s = (const rgp_image_sensor *)rgp_image_at(c->rig->image, RGP_SECTION_SENSORS) + is->sensor;
    const rgp_mechanism_item *device = &c->hookup->mechanism[is->mechanism];
    const char *name =
        rgp_image_text(c->rig->image, RGP_NAME_SLOT, rgp_image_sensor_slot(c->rig->image, is->sensor), 0);
    const bool words = is->text[TAKES_ON] || is->text[TAKES_OFF],
               numbers = is->value[TAKES_TIMES] != 1.0 || is->value[TAKES_PLUS] != 0.0;
    if (device->value[DEVICE_JSON] != 0.0 && !is->column) {
        return refuse(c, is->line, "'%s' prints JSON, where fields have names; for instance: %s takes \"%s\" of %s",
                      device->name, name, name, device->name);
    }
    if (s->kind == RGP_SENSOR_SWITCH ? numbers : words) {
        return refuse(c, is->line, "'%s' is %s: leave out %s", name, words ? "a number" : "a switch",
                      words ? "'on' and 'off'" : "'times' and 'plus'");
    }
    if (words && (!is->text[TAKES_ON] || !is->text[TAKES_OFF])) {
        return refuse(c, is->line, "'%s': say both what it prints for on and what for off", name);
    }
    return is->value[TAKES_TIMES] != 0.0 || refuse(c, is->line, "'%s': times 0 is always the same", name);
}

static bool check_sends(const checking *c, const rgp_actuator_item *is)
{
    const rgp_image_header *image = c->rig->image;
    const rgp_image_actuator *a = (const rgp_image_actuator *)rgp_image_at(image, RGP_SECTION_ACTUATORS) + is->actuator;
    const char *name = rgp_image_text(image, RGP_NAME_SLOT, rgp_image_actuator_slot(image, is->actuator), 0);
    const bool words = is->text[SENDS_ON] || is->text[SENDS_OFF];
    if (words && a->kind != RGP_ACTUATOR_SWITCH) {
        return refuse(c, is->line, "'%s' is driven in numbers: leave out 'on' and 'off'", name);
    }
    if (is->value[SENDS_DECIMALS] != SENDS_AS_NEEDED &&
        (a->kind == RGP_ACTUATOR_SWITCH || is->value[SENDS_DECIMALS] != (int)is->value[SENDS_DECIMALS])) {
        return refuse(c, is->line, "'%s': 'decimals' is a whole number, and not for a switch", name);
    }
    return true;
}

bool rgp_serial_check(const rgp_rig *rig, const rgp_hookup *h, GError **error)
{
    const checking c = {rig, h, error};
    bool sound = h->mechanisms > 0 || refuse(&c, h->line,
                                             "a hook-up to 'serial' needs a device; for instance: "
                                             "device board: path \"/dev/ttyUSB0\"");
    for (uint32_t i = 0; i < h->mechanisms && sound; i++) {
        sound = check_device(&c, &h->mechanism[i]);
    }
    for (uint32_t i = 0; i < h->sensors && sound; i++) {
        sound = check_takes(&c, &h->sensor[i]);
    }
    for (uint32_t i = 0; i < h->actuators && sound; i++) {
        sound = check_sends(&c, &h->actuator[i]);
    }
    return sound;
}
