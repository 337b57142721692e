/* The words of a hook-up to devices that print lines. */
#include "words.h"

#include "serial.h"

const rgp_mechanism_kind serial_device = {
    .word = "device",
    .help = "a device on a serial wire, or anything that looks like one: it prints lines, and takes lines as orders",
    .setting =
        {
            [DEVICE_PATH] = {"path", RGP_UNIT_TEXT, 0, 0, 0, false,
                             "where it is: \"/dev/ttyUSB0\"; a path without a / in front counts from the rig file's "
                             "folder. 'rigpulse ports' lists what there is"},
            [DEVICE_SPEED] = {"speed", "", 115200, 50, DEVICE_SPEED_MOST, false, "bits a second on the wire"},
            [DEVICE_JSON] = {"json", NULL, 0, 0, 1, false,
                             "each line is an object of JSON (JSON Lines); else it is a row of CSV, between commas, "
                             "semicolons, tabs or blanks"},
            [DEVICE_CR] = {"cr", NULL, 0, 0, 1, false, "a line that is sent to it ends with a carriage return"},
            [DEVICE_CRLF] = {"crlf", NULL, 0, 0, 1, false, "with a carriage return and a line feed"},
            [DEVICE_RESTARTS] = {"restarts", "s", 0, 0, 30, false,
                                 "it starts anew when it is opened: it is left alone for so long"},
            [DEVICE_START] = {"start", RGP_UNIT_TEXT, 0, 0, 0, false, "a line that is sent when it has been opened"},
            [DEVICE_END] = {"end", RGP_UNIT_TEXT, 0, 0, 0, false,
                            "a line that is sent last, behind the rest values of its actuators"},
            [DEVICE_COMMENT] = {"comment", RGP_UNIT_TEXT, 0, 0, 0, false,
                                "lines that begin so are left aside; \"#\" when it is not written"},
            {0},
        },
};

const rgp_sensor_kind serial_takes = {
    .word = "takes",
    .source = RGP_SOURCE_DEVICE,
    .help = "SENSOR takes column NUMBER of DEVICE, or SENSOR takes \"NAME\" of DEVICE",
    .setting =
        {
            [TAKES_TIMES] = {"times", "", 1, -1e9, 1e9, false, "the raw reading is what is printed times this"},
            [TAKES_PLUS] = {"plus", "", 0, -1e9, 1e9, false, "and this is added; then it is made whole"},
            [TAKES_ON] = {"on", RGP_UNIT_TEXT, 0, 0, 0, false, "of a switch: what it prints for on"},
            [TAKES_OFF] = {"off", RGP_UNIT_TEXT, 0, 0, 0, false, "of a switch: what it prints for off"},
            {0},
        },
};

const rgp_actuator_kind serial_sends = {
    .word = "sends",
    .mark = SENDS_MARK,
    .help = "ACTUATOR sends \"TEXT\" to DEVICE; the value stands for " SENDS_MARK " in the text",
    .setting =
        {
            [SENDS_EVERY] = {"every", "s", 0, 0.001, 3600, false, "again after so long, where nothing has changed"},
            [SENDS_DECIMALS] = {"decimals", "", SENDS_AS_NEEDED, 0, 6, false,
                                "digits behind the point; as many as are needed when it is not written"},
            [SENDS_ON] = {"on", RGP_UNIT_TEXT, 0, 0, 0, false, "of a switch: its value for on; 1 when not written"},
            [SENDS_OFF] = {"off", RGP_UNIT_TEXT, 0, 0, 0, false, "of a switch: its value for off; 0 when not written"},
            {0},
        },
};

const char *serial_line_end(const double *device_value)
{
    return device_value[DEVICE_CRLF] != 0.0 ? "\r\n" : device_value[DEVICE_CR] != 0.0 ? "\r" : "\n";
}

const rgp_catalog *rgp_serial_catalog(void)
{
    static const rgp_mechanism_kind *const devices[] = {&serial_device, NULL};
    static const rgp_sensor_kind *const sensors[] = {&serial_takes, NULL};
    static const rgp_actuator_kind *const actuators[] = {&serial_sends, NULL};
    static const rgp_catalog catalog = {.port = "serial",
                                        .help = "devices that print their readings as lines, and take lines as orders",
                                        .thing = "device",
                                        .mechanism = devices,
                                        .sensor = sensors,
                                        .actuator = actuators};
    return &catalog;
}
