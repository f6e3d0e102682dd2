// A block of terminals (CiA 401) on the npm package canopen, over an adapter line (slcan): node npmnode.js PORT NODE
const net = require('net');
const { Device, DataType, ObjectType, AccessType, Eds } = require('canopen');

const [port, id] = process.argv.slice(2).map(Number);
const eds = new Eds();
const device = new Device({ id, eds });
const accessType = AccessType.READ_WRITE;

function single(index, dataType, defaultValue) {
    if (eds.getEntry(index)) eds.removeEntry(index);
    eds.addEntry(index, { parameterName: `at ${index}`, dataType, defaultValue, accessType });
}

function array(index, dataType, values) {
    if (eds.getEntry(index)) eds.removeEntry(index);
    eds.addEntry(index, { parameterName: `at ${index}`, objectType: ObjectType.ARRAY });
    values.forEach((defaultValue, n) =>
        eds.addSubEntry(index, n + 1, { parameterName: `at ${n}`, dataType, defaultValue, accessType }));
}

single(0x1000, DataType.UNSIGNED32, 0x00030191);
single(0x1001, DataType.UNSIGNED8, 0);
single(0x1008, DataType.VISIBLE_STRING, 'Others terminals');
single(0x1017, DataType.UNSIGNED16, 100);
array(0x1018, DataType.UNSIGNED32, [7, 8, 1, 77]);
array(0x1016, DataType.UNSIGNED32, [0]);
array(0x6000, DataType.UNSIGNED8, [0b101]);
array(0x6200, DataType.UNSIGNED8, [0]);
array(0x6206, DataType.UNSIGNED8, [0xff]);
array(0x6207, DataType.UNSIGNED8, [0]);
eds.addSdoServerParameter(0, 0x580 + id, 0x600 + id);

const line = net.connect(port, '127.0.0.1', () => {
    line.write('S6\rO\r');
    device.start();
});
device.addListener('message', (frame) => {
    const data = Buffer.from(frame.data);
    line.write(`t${frame.id.toString(16).padStart(3, '0')}${data.length}${data.toString('hex')}\r`.toUpperCase().replace('T', 't'));
});
let left = '';
line.on('data', (bytes) => {
    const lines = (left + bytes.toString('latin1')).split('\r');
    left = lines.pop();
    for (const text of lines.filter((each) => each[0] === 't')) {
        const data = Buffer.from(text.slice(5, 5 + 2 * Number(text[4])), 'hex');
        device.receive({ id: parseInt(text.slice(1, 4), 16), data });
    }
});
line.on('error', () => process.exit(1));
line.on('close', () => process.exit(0));
